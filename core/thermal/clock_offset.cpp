#include "thermal/clock_offset.h"

#include "thermal/power_lags.h"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// How far the clocks are apart: the offset at which lags of the power and a bending baseline leave least of
/// the strongest spot's own course. Frames that no offset explains (a hand over the spot) do not count.
class OffsetSearch {
  public:
    OffsetSearch(const std::vector<SupplySample>& supply, const RepairedFrames& repaired, PixelPoint spot)
        : m_supply(supply), m_times_s(repaired.times_s),
          m_course_k(static_cast<long>(repaired.times_s.size())),
          m_counts(Eigen::VectorXd::Ones(m_course_k.size())) {
        const int x =
            std::clamp(static_cast<int>(std::lround(spot.x_px)) - 1, 0, repaired.rises_k.picture().width - 3);
        const int y = std::clamp(static_cast<int>(std::lround(spot.y_px)) - 1, 0,
                                 repaired.rises_k.picture().height - 3);
        for (long i = 0; i < m_course_k.size(); ++i)
            m_course_k[i] = repaired.rises_k.meanAt(static_cast<std::size_t>(i), cv::Rect(x, y, 3, 3));
        makeBaseline();
    }

    ClockOffset best() {
        constexpr int rounds = 3;
        double best_s = 0;
        for (int i = 0; i < rounds; ++i) {
            best_s = leastDoubtful();
            if (i + 1 < rounds) countOnly(left(best_s));
        }
        const double with = left(best_s).cwiseProduct(m_counts).squaredNorm(),
                     without =
                         leftOver(m_course_k, m_baseline, m_counts).cwiseProduct(m_counts).squaredNorm();
        return {best_s, without > 0 ? 1 - with / without : 0};
    }

  private:
    /// Leaves out frames far beyond what is usually left over.
    void countOnly(const Eigen::VectorXd& left) {
        constexpr double deviations = 5;
        const double most = deviations * usualSize(left);
        m_counts = (left.array().abs() <= most).cast<double>();
    }

    double leastDoubtful() const {
        constexpr double reach_s = 0.4, step_s = 0.02;
        double best_s = 0, least = doubt(0);
        for (double offset = -reach_s; offset <= reach_s + step_s / 2; offset += step_s)
            if (const double found = doubt(offset); found < least) {
                least = found;
                best_s = offset;
            }
        // Finer: the lowest point of the parabola through the neighbours.
        const double a = doubt(best_s - step_s), b = doubt(best_s + step_s), bend = a + b - 2 * least;
        return bend > 0 ? best_s + std::clamp(step_s * (a - b) / (2 * bend), -step_s, step_s) : best_s;
    }

    /// Minus the logarithm of the odds. A part that warms slowly says little about the clocks, and what is
    /// left over of it is no white noise: clocks far apart need evidence.
    double doubt(double offset_s) const {
        constexpr double usual_s = 0.08, framesPerEvidence = 10;
        const double squares = left(offset_s).cwiseProduct(m_counts).squaredNorm();
        return 0.5 * m_counts.sum() / framesPerEvidence * std::log(std::max(1e-300, squares)) +
               0.5 * offset_s * offset_s / (usual_s * usual_s);
    }

    /// What is left over of the course, of every frame.
    Eigen::VectorXd left(double offset_s) const {
        const Eigen::MatrixXd lags = powerLags(m_supply, m_times_s, offset_s);
        Eigen::MatrixXd terms(lags.rows(), lags.cols() + m_baseline.cols());
        terms << lags, m_baseline;
        return leftOver(m_course_k, terms, m_counts);
    }

    /// Linear between knots.
    void makeBaseline() {
        constexpr double knot_s = 6;
        const double start_s = m_times_s.front();
        m_baseline = Eigen::MatrixXd::Zero(m_course_k.size(),
                                           static_cast<int>((m_times_s.back() - start_s) / knot_s) + 2);
        for (long i = 0; i < m_baseline.rows(); ++i) {
            const double place = (m_times_s[i] - start_s) / knot_s;
            const int knot = static_cast<int>(place);
            m_baseline(i, knot) = 1 - (place - knot);
            m_baseline(i, knot + 1) = place - knot;
        }
    }

    const std::vector<SupplySample>& m_supply;
    std::vector<double> m_times_s;
    Eigen::VectorXd m_course_k; ///< of each frame
    Eigen::VectorXd m_counts;   ///< 1 where the frame counts, 0 where it does not
    Eigen::MatrixXd m_baseline; ///< frames x knots
};

} // namespace

ClockOffset clockOffset(const std::vector<SupplySample>& supply, const RepairedFrames& repaired,
                        PixelPoint spot) {
    return OffsetSearch(supply, repaired, spot).best();
}

} // namespace ustor
