#include "rail/millivolts.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// What the figures of the network are good for, as deviations.
struct ModelTrust {
    double scale;      ///< of the sheet resistance as a whole
    double pattern;    ///< of each drop, against the others
    double everywhere; ///< of every drop, as a share of how far the drops of a candidate spread
};

constexpr ModelTrust drawnCopper{0.15, 0.03, 0};
/// Pads alone give the order of the drops, hardly their size.
constexpr ModelTrust guessedCopper{0.7, 0.35, 0.5};
/// Of the offset, once the first reading is taken off all of them.
constexpr double freeOffset_v = 0.1;

struct Candidate {
    PartIndex part = -1;
    std::vector<double> drop_v;      ///< I K(p, s) at each pad of the stretch
    double mean_v = 0, spread_v = 0; ///< of the drops: mean and deviation
};

struct Place {
    PadRef pad;
    int node = -1;
};

/// What a candidate says about one more reading.
struct Forecast {
    double mean = 0, variance = 0;
};

} // namespace

class MillivoltLocator::Solved {
  public:
    Solved(const Board& board, const Stretch& stretch, const CopperNetwork& copper,
           const MillivoltSetup& setup)
        : m_board(board), m_stretch(stretch), m_copper(copper), m_setup(setup),
          m_trust(copper.fromCopper ? drawnCopper : guessedCopper) {}

    Outcome prepare() {
        const int feed = m_copper.nodeOf(m_setup.inject);
        if (feed < 0)
            return Error{"the place of injection is not on this rail", m_board.placeOf(m_setup.inject), ""};
        const auto grounded = m_copper.network.grounded(feed);
        if (!grounded) return grounded.error();
        for (const NetIndex net : m_stretch.nets)
            for (const PadRef pad : m_board.padsOf(net))
                if (const int node = m_copper.nodeOf(pad); node >= 0 && grounded.value().reaches(node))
                    m_places.push_back({pad, node});
        for (const PartIndex part : m_stretch.suspects) {
            std::vector<int> nodes;
            for (int i = 0; i < static_cast<int>(m_board.parts[part].pads.size()); ++i)
                if (const int node = m_copper.nodeOf({part, i}); node >= 0 && grounded.value().reaches(node))
                    nodes.push_back(node);
            if (nodes.empty()) continue;
            std::vector<double> amps(static_cast<std::size_t>(m_copper.network.nodes()), 0.0);
            for (const int node : nodes)
                amps[static_cast<std::size_t>(node)] =
                    m_setup.current.value / static_cast<double>(nodes.size());
            const auto volts = grounded.value().solve(amps);
            Candidate candidate;
            candidate.part = part;
            for (const Place& place : m_places)
                candidate.drop_v.push_back(volts[static_cast<std::size_t>(place.node)]);
            const Eigen::Map<const Eigen::ArrayXd> drops(candidate.drop_v.data(),
                                                         static_cast<Eigen::Index>(candidate.drop_v.size()));
            candidate.mean_v = drops.mean();
            candidate.spread_v = std::sqrt((drops - candidate.mean_v).square().mean());
            m_candidates.push_back(std::move(candidate));
        }
        if (m_candidates.empty())
            return Error{"no part of this rail could short it", nameOf(m_board, m_stretch), ""};
        return Done{};
    }

    Result<MillivoltFinding> locate(const std::vector<MillivoltReading>& readings) {
        for (const MillivoltReading& reading : readings) {
            const auto place = std::find_if(m_places.begin(), m_places.end(),
                                            [&](const Place& p) { return p.pad == reading.at; });
            if (place == m_places.end())
                return Error{"a reading beside the rail", m_board.placeOf(reading.at), "the others are kept"};
            m_read.push_back(static_cast<std::size_t>(place - m_places.begin()));
            m_volts.push_back(reading.volts - readings.front().volts);
        }
        weigh();
        MillivoltFinding finding;
        for (std::size_t s = 0; s < m_candidates.size(); ++s)
            finding.candidates.push_back({m_candidates[s].part, m_odds[s]});
        std::stable_sort(finding.candidates.begin(), finding.candidates.end(),
                         [](const PlaceOdds& a, const PlaceOdds& b) { return a.odds > b.odds; });
        chooseNext(finding);
        double entropy = 0;
        for (const double odds : m_odds)
            entropy -= odds > 0 ? odds * std::log2(odds) : 0;
        const double told = std::log2(static_cast<double>(m_odds.size())) - entropy;
        constexpr double little_bits = 0.1, something_bits = 0.2;
        finding.tells = told > something_bits || finding.gain_bits > little_bits;
        finding.notes = m_copper.notes;
        if (!finding.tells)
            finding.notes.emplace_back(
                "this meter and this current cannot tell the places apart: take more current "
                "within the limits, or a finer meter");
        return finding;
    }

  private:
    /// Variance of one reading: half a digit either way, the contact, and the network's own error on what
    /// this pad drops against the others.
    double variance(std::size_t s, std::size_t place) const {
        const double digit = m_setup.resolution.value, contact = m_setup.contact.value;
        const double off = m_candidates[s].drop_v[place] - m_candidates[s].mean_v;
        const double own =
            m_trust.pattern * m_trust.pattern * off * off +
            m_trust.everywhere * m_trust.everywhere * m_candidates[s].spread_v * m_candidates[s].spread_v;
        return digit * digit / 12 + contact * contact + own;
    }
    /// Readings so far under a candidate: c and k integrated out of a Gaussian.
    struct Fit {
        Eigen::LLT<Eigen::MatrixXd> chol;
        Eigen::VectorXd left; ///< what the mean does not explain
        double logLikelihood = 0;
    };
    Fit fit(std::size_t s) const {
        const auto n = static_cast<Eigen::Index>(m_read.size());
        Eigen::VectorXd drops(n), left(n);
        for (Eigen::Index i = 0; i < n; ++i) {
            const auto k = static_cast<std::size_t>(i);
            drops[i] = m_candidates[s].drop_v[m_read[k]];
            left[i] = m_volts[k] + drops[i];
        }
        Eigen::MatrixXd covariance = m_trust.scale * m_trust.scale * drops * drops.transpose() +
                                     Eigen::MatrixXd::Constant(n, n, freeOffset_v * freeOffset_v);
        for (Eigen::Index i = 0; i < n; ++i)
            covariance(i, i) += variance(s, m_read[static_cast<std::size_t>(i)]);
        Fit made{Eigen::LLT<Eigen::MatrixXd>(covariance), left, 0};
        if (n == 0) return made;
        const Eigen::VectorXd white = made.chol.matrixL().solve(left);
        made.logLikelihood = -white.squaredNorm() / 2 - made.chol.matrixLLT().diagonal().array().log().sum();
        return made;
    }

    void weigh() {
        m_fits.clear();
        double most = -1e300;
        for (std::size_t s = 0; s < m_candidates.size(); ++s) {
            m_fits.push_back(fit(s));
            most = std::max(most, m_fits.back().logLikelihood);
        }
        double sum = 0;
        m_odds.clear();
        for (const Fit& made : m_fits) {
            m_odds.push_back(std::exp(made.logLikelihood - most));
            sum += m_odds.back();
        }
        for (double& odds : m_odds)
            odds /= sum;
    }

    Forecast forecast(std::size_t s, std::size_t place) const {
        const double drop = m_candidates[s].drop_v[place], scale2 = m_trust.scale * m_trust.scale;
        const double own = scale2 * drop * drop + freeOffset_v * freeOffset_v + variance(s, place);
        if (m_read.empty()) return {-drop, own};
        Eigen::VectorXd shared(static_cast<Eigen::Index>(m_read.size()));
        for (Eigen::Index i = 0; i < shared.size(); ++i)
            shared[i] = scale2 * drop * m_candidates[s].drop_v[m_read[static_cast<std::size_t>(i)]] +
                        freeOffset_v * freeOffset_v;
        const Eigen::VectorXd weights = m_fits[s].chol.solve(shared);
        return {-drop + weights.dot(m_fits[s].left), std::max(own - weights.dot(shared), variance(s, place))};
    }

    /// The gain of a reading: how much wider the candidates lie apart than each of them is, as if all were
    /// Gaussian; never more than is left to know.
    double gainOf(std::size_t place) const {
        double mean = 0, square = 0, logWithin = 0, left = 0;
        for (std::size_t s = 0; s < m_candidates.size(); ++s) {
            const Forecast f = forecast(s, place);
            mean += m_odds[s] * f.mean;
            square += m_odds[s] * (f.mean * f.mean + f.variance);
            logWithin += m_odds[s] * std::log2(f.variance);
            left -= m_odds[s] > 0 ? m_odds[s] * std::log2(m_odds[s]) : 0;
        }
        const double apart = (std::log2(std::max(square - mean * mean, 1e-300)) - logWithin) / 2;
        return std::clamp(apart, 0.0, left);
    }

    void chooseNext(MillivoltFinding& finding) const {
        if (m_read.empty()) {
            // The first reading fixes the offset: the place of injection does so for every candidate alike.
            finding.readNext = m_setup.inject;
            finding.gain_bits = widestGain();
            return;
        }
        for (std::size_t place = 0; place < m_places.size(); ++place) {
            if (std::find(m_read.begin(), m_read.end(), place) != m_read.end()) continue;
            if (const double gain = gainOf(place); gain > finding.gain_bits) {
                finding.gain_bits = gain;
                finding.readNext = m_places[place].pad;
            }
        }
    }

    /// Before any reading: the gain of the second one, once the first has fixed the offset.
    double widestGain() const {
        Solved second = *this;
        const auto feed = std::find_if(m_places.begin(), m_places.end(),
                                       [&](const Place& p) { return p.pad == m_setup.inject; });
        second.m_read = {static_cast<std::size_t>(feed - m_places.begin())};
        second.m_volts = {0};
        second.weigh();
        double most = 0;
        for (std::size_t place = 0; place < m_places.size(); ++place)
            if (place != second.m_read.front()) most = std::max(most, second.gainOf(place));
        return most;
    }

    const Board& m_board;
    Stretch m_stretch;
    const CopperNetwork& m_copper;
    MillivoltSetup m_setup;
    ModelTrust m_trust;
    std::vector<Place> m_places;
    std::vector<Candidate> m_candidates;
    std::vector<std::size_t> m_read; ///< index of the place of each reading
    std::vector<double> m_volts;
    std::vector<Fit> m_fits;
    std::vector<double> m_odds;
};

Result<MillivoltLocator> MillivoltLocator::create(const Board& board, const Stretch& stretch,
                                                  const CopperNetwork& copper, const MillivoltSetup& setup) {
    auto solved = std::make_shared<Solved>(board, stretch, copper, setup);
    if (const auto prepared = solved->prepare(); !prepared) return prepared.error();
    return MillivoltLocator(std::move(solved));
}

Result<MillivoltFinding> MillivoltLocator::locate(const std::vector<MillivoltReading>& readings) const {
    Solved asked = *m_solved;
    return asked.locate(readings);
}

} // namespace ustor
