#pragma once

#include "thermal/lag_bank.h"
#include "thermal/telegraph.h"

#include <Eigen/Core>
#include <array>
#include <map>
#include <opencv2/core.hpp>
#include <vector>

namespace ustor {

/// How each pixel follows the power.
///
/// Model, for each pixel:   y(t) = sum_k c_k (h_k * p)(t) + b(t) + e(t)
/// with p the delivered power, h_k(t) = exp(-t / tau_k) / tau_k a bank of first-order lags, b(t) a baseline
/// that bends slowly (linear between knots some pulses apart: drift, hot-air heat that decays), e noise. The
/// coefficients are found by least squares over all frames, kept as running sums, so that a live stream costs
/// one update a frame, and no more memory the longer it lasts: past some minutes every second knot goes (the
/// sums of the wider knots follow from those of the finer ones). From them follows the response to one watt
/// switched on t seconds ago,
///     S(t) = sum_k c_k (1 - exp(-t / tau_k)),
/// and its standard deviation sqrt(w' (B'B)^-1 w) sigma, w_k = 1 - exp(-t / tau_k), under white noise. Small
/// t locates; large t shows the area. The bank stands in for the board's true response (a sum of such lags
/// for every linear diffusion), so it needs no knowledge of the board.
///
/// Reflections, hands and edges that move are not white: they change as slowly as pulses do. How much more of
/// them there is than of camera noise is asked from the pixel itself, by what it shows of pulses that never
/// were (random telegraphs, independent of the power): `chance`.
class StepResponse {
  public:
    StepResponse(int width, int height);

    /// Adds one repaired frame (CV_32FC1 kelvin) taken at a time, and the power delivered at that time.
    /// Power between frames is taken as linear. Times must rise. The frame is kept for a while: it must not
    /// be changed afterwards. `covered`: blocks of the picture that do not count in this frame (see
    /// `passingThrough`), or empty.
    void add(double time_s, double watts, const cv::Mat& kelvin, const cv::Mat& covered = {});

    int frames() const { return m_frames; }
    double seconds() const { return m_last_s - m_start_s; }      ///< from the first frame to the last
    int sums() const { return static_cast<int>(m_gram.rows()); } ///< kept of each pixel
    int width() const { return m_width; }
    int height() const { return m_height; }
    bool ready() const; ///< enough frames and enough change of power to solve

    enum class Baseline {
        Bending, ///< what is slower than some pulses is taken out: for sources on the near side
        Shared   ///< an offset, and what mirrors share: for heat that gathers through the whole recording
    };
    struct Maps {
        cv::Mat rise_k_per_w; ///< S(t) of each pixel, CV_32FC1
        double sigma_k_per_w =
            0;          ///< standard deviation of S(t) from camera noise, of a pixel seen throughout
        cv::Mat excess; ///< CV_32FC1: that of each pixel over it; empty where all are seen throughout
    };
    /// What each pixel shows of pulses that never were, in units of camera noise: twelve maps.
    std::vector<cv::Mat> chance(Baseline baseline = Baseline::Bending) const;
    /// The response t seconds after one watt is switched on.
    Maps at(double seconds, Baseline baseline = Baseline::Bending) const;
    /// 1 where a pixel's slow course is that of the power or of nothing, 0 where it goes its own way:
    /// mirrors, which show what moves around the board, and dead pixels. Heat, how late and slow it may come,
    /// follows the power. CV_32FC1.
    const cv::Mat& quiet() const { return slow().quiet; }
    /// From now on mirrors count as everything else does, and what they share stays in.
    void countMirrors();
    /// The response at the pulses' own rate, as a complex number: the part in step with the power, and the
    /// part a quarter of a pulse behind it.
    struct Wave {
        cv::Mat inPhase, behind;  ///< K/W, CV_32FC1
        double sigma_k_per_w = 0; ///< of either part, the larger
        double rate_rad_s = 0;
    };
    Wave atRate(Baseline baseline = Baseline::Bending) const;
    /// Seconds from one rise of the power to the next; 0 before the second.
    double period_s() const { return m_periods > 0 ? m_periods_s / m_periods : 0; }
    /// The amplitude of a response of one lag alone, in K/W at its end: wrong in shape for most places, but
    /// free of the noise that telling the shape costs. What is too weak for S(t) may still show here.
    Maps matched(int lag, Baseline baseline = Baseline::Bending) const;
    /// 1 where a pixel was seen throughout, 0 where it was covered for a while; CV_32FC1.
    cv::Mat seenThroughout() const;
    /// How much better the power explains a weighed sum of pixels than a baseline does, over what pulses that
    /// never were explain of what is left: a ratio of variances, F distributed where the two are alike
    /// (Fisher's test for nested models), with 12 degrees of freedom below. What reflections do is smooth, or
    /// as much like any pulses as like the power. `weights`: CV_32FC1, 0 outside `within` and where a pixel
    /// was not seen throughout.
    ///
    /// Slow: the lags of a second and more against a baseline bent at every knot, 3 degrees of freedom above.
    /// Quick: the best of the lags below two seconds against the bending baseline, 1 above.
    double slowOverChance(const cv::Mat& weights, cv::Rect within) const;
    double quickOverChance(const cv::Mat& weights, cv::Rect within) const;
    /// S(t) of one pixel.
    double at(double seconds, int x, int y, Baseline baseline = Baseline::Bending) const;
    /// Camera noise of a single frame in kelvin, from what the model leaves over.
    double noise_k() const;

  private:
    static constexpr int lags = LagBank::lags;
    using Rows = Eigen::Matrix<float, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
    static constexpr int telegraphs = 12, fixedTerms = lags + telegraphs;
    static constexpr double finest_s = 4; ///< between knots of the finest baseline
    static constexpr int mostKnots = 48;

    Eigen::VectorXd rowAt(double time_s, double watts);
    void grow(int terms);
    void joinKnots();
    void flush() const;
    /// What follows from the sums under one baseline.
    struct Solution {
        bool done = false;
        Eigen::MatrixXd inverse;                      ///< lags and baseline
        std::map<int, Eigen::MatrixXd> blockInverses; ///< of the lags, of blocks not seen throughout
        Rows coefficients;                            ///< lags x pixels
        Rows chance;                                  ///< telegraphs x pixels
        double noise_k = 0;
    };
    const Solution& solution(Baseline baseline) const;
    Eigen::MatrixXd hats(Baseline baseline) const; ///< columns over the knots
    Eigen::MatrixXd inverseOf(const Eigen::MatrixXd& gram) const;
    Rows lagsOf(const Eigen::MatrixXd& inverse, const Eigen::MatrixXd& columns, long first, long count) const;
    Rows telegraphsLeft(const Eigen::MatrixXd& columns, const Eigen::MatrixXd& gram,
                        const Eigen::MatrixXd& inverse, double noise_k) const;
    void solveBlocks(const Eigen::MatrixXd& columns, Solution& solution) const;
    cv::Mat without(const cv::Mat& kelvin, const Eigen::VectorXd& row, const cv::Mat& covered);
    cv::Rect blockAt(int block) const;
    Eigen::VectorXd weights(double seconds) const;
    cv::Mat combined(const Rows& coefficients, const Eigen::VectorXd& weights) const;
    /// What is slower than the knots.
    struct Slow {
        bool done = false;
        cv::Mat quiet;          ///< see `quiet`
        Eigen::MatrixXd shared; ///< knots x courses: what restless pixels have in common
    };
    const Slow& slow() const;
    Eigen::VectorXd crossOf(const cv::Mat& weights, cv::Rect within) const;
    Eigen::MatrixXd bent() const; ///< columns over all terms
    double explained(const Eigen::VectorXd& cross, const Eigen::MatrixXd& columns) const;
    double byChance(const Eigen::VectorXd& cross, const Eigen::MatrixXd& columns) const;
    void tellRestless(cv::Mat& restless) const;
    cv::Mat growsColder(const Eigen::MatrixXd& level) const;
    int knots() const { return static_cast<int>((m_last_s - m_start_s) / m_knot_s) + 2; }
    cv::Mat explainedBy(const Eigen::MatrixXd& hats, int ofLags) const;
    Eigen::MatrixXd sharedCourses(const cv::Mat& restless) const;

    int m_width, m_height, m_frames = 0;
    double m_start_s = 0, m_last_s = 0, m_knot_s = finest_s;
    LagBank m_lagged;
    double m_onSince_s = -1, m_periods_s = 0, m_most_w = 0; ///< of the pulses so far
    int m_periods = 0;
    std::vector<Telegraph> m_telegraphs;
    Eigen::MatrixXd m_gram;                      ///< terms x terms: lags, telegraphs, knots
    std::map<int, Eigen::MatrixXd> m_unseen;     ///< by block: that of the frames in which it was covered
    mutable Rows m_cross;                        ///< terms x pixels
    mutable std::vector<cv::Mat> m_waiting;      ///< frames not yet in the sums
    Rows m_waitingRows;                          ///< terms x frames
    mutable Eigen::VectorXf m_squares;           // pixels
    mutable std::array<Solution, 2> m_solutions; ///< by baseline
    mutable Slow m_slow;
    bool m_mirrorsCount = false;
};

} // namespace ustor
