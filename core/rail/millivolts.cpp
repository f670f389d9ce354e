#include "rail/millivolts.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// Of the sheet resistance as a whole, as a share.
constexpr double scaleDoubt = 0.15, guessedScaleDoubt = 0.5;
/// Of the offset, once the first reading is taken off all of them.
constexpr double freeOffset_v = 0.1;
/// Of readings on ground: clip and copper between the black lead and where the current leaves.
constexpr double groundOffset_v = 0.03;

/// One part as the short, on one guess of the copper.
struct Hypothesis {
    PartIndex part = -1;
    Eigen::VectorXd drop_v;          ///< k I K(p, s) at each place, for k = 1
    Eigen::MatrixXd region_v;        ///< what a region that is off by its doubt adds, by place and region
    double guessDoubt = 0;           ///< of guessed copper: how far its drops may be off, as a share
    double mean_v = 0, spread_v = 0; ///< of guessed copper: the drops' mean and deviation
};

struct Place {
    PadRef pad;
    bool ground = false;
};

/// What a hypothesis says about one more reading.
struct Forecast {
    double mean = 0, variance = 0;
};

struct ReadAt {
    std::size_t red = 0;
    std::optional<std::size_t> black; ///< nothing: at the fixed place
};

Stretch groundOf(const Board& board) {
    Stretch ground;
    for (NetIndex net = 0; net < static_cast<NetIndex>(board.nets.size()); ++net)
        if (board.nets[net].ground) ground.nets.push_back(net);
    return ground;
}

/// Transfer resistances between some pads of a network, grounded at one place, and what each region adds to
/// them: with v_p the potentials of one ampere into pad p, region g's share of K(p, q) is the sum over its
/// edges of (v_p(a) - v_p(b)) (v_q(a) - v_q(b)) / r.
class Transfer {
  public:
    static Result<Transfer> create(const CopperNetwork& copper, int reference, std::vector<PadRef> pads) {
        const auto grounded = copper.network.grounded(reference);
        if (!grounded) return grounded.error();
        Transfer made;
        std::erase_if(pads, [&](PadRef pad) { return !grounded.value().reaches(copper.nodeOf(pad)); });
        made.m_pads = std::move(pads);
        const auto count = static_cast<Eigen::Index>(made.m_pads.size());
        Eigen::MatrixXd potentials(copper.network.nodes(), count);
        for (Eigen::Index p = 0; p < count; ++p) {
            std::vector<double> amps(static_cast<std::size_t>(copper.network.nodes()), 0.0);
            amps[static_cast<std::size_t>(copper.nodeOf(made.m_pads[static_cast<std::size_t>(p)]))] = 1;
            const auto volts = grounded.value().solve(amps);
            if (!volts) return volts.error();
            potentials.col(p) = Eigen::Map<const Eigen::VectorXd>(volts.value().data(), potentials.rows());
        }
        made.m_whole.resize(count, count);
        for (Eigen::Index p = 0; p < count; ++p)
            made.m_whole.row(p) =
                potentials.row(copper.nodeOf(made.m_pads[static_cast<std::size_t>(p)])).head(count);
        made.addRegions(copper, potentials);
        return made;
    }

    const std::vector<PadRef>& pads() const { return m_pads; }
    /// Ohms from a set of pads that share the current evenly to each pad.
    Eigen::VectorXd from(const std::vector<int>& fed) const { return mean(m_whole, fed); }
    /// The same for each region, as a column, times the region's doubt.
    Eigen::MatrixXd regionsFrom(const std::vector<int>& fed) const {
        Eigen::MatrixXd columns(static_cast<Eigen::Index>(m_pads.size()),
                                static_cast<Eigen::Index>(m_regions.size()));
        for (std::size_t g = 0; g < m_regions.size(); ++g)
            columns.col(static_cast<Eigen::Index>(g)) = mean(m_regions[g], fed);
        return columns;
    }

  private:
    static Eigen::VectorXd mean(const Eigen::MatrixXd& matrix, const std::vector<int>& columns) {
        Eigen::VectorXd sum = Eigen::VectorXd::Zero(matrix.rows());
        for (const int c : columns)
            sum += matrix.col(c);
        return sum / static_cast<double>(columns.size());
    }

    void addRegions(const CopperNetwork& copper, const Eigen::MatrixXd& potentials) {
        const auto& edges = copper.network.edges();
        std::vector<std::vector<std::size_t>> members(copper.regionDoubt.size());
        for (std::size_t e = 0; e < edges.size(); ++e)
            if (copper.regionOf[e] >= 0) members[static_cast<std::size_t>(copper.regionOf[e])].push_back(e);
        for (std::size_t g = 0; g < members.size(); ++g) {
            Eigen::MatrixXd drops(potentials.cols(), static_cast<Eigen::Index>(members[g].size()));
            for (std::size_t k = 0; k < members[g].size(); ++k) {
                const auto& edge = edges[members[g][k]];
                drops.col(static_cast<Eigen::Index>(k)) =
                    std::sqrt(edge.siemens) * (potentials.row(edge.a) - potentials.row(edge.b)).transpose();
            }
            Eigen::MatrixXd share = copper.regionDoubt[g] * (drops * drops.transpose());
            constexpr double negligible_ohms = 1e-8;
            if (share.size() > 0 && share.cwiseAbs().maxCoeff() > negligible_ohms)
                m_regions.push_back(std::move(share));
        }
    }

    std::vector<PadRef> m_pads;
    Eigen::MatrixXd m_whole;
    std::vector<Eigen::MatrixXd> m_regions;
};

/// Indices of a part's pads in a list.
std::vector<int> padsOfPart(PartIndex part, const std::vector<PadRef>& pads) {
    std::vector<int> found;
    for (std::size_t i = 0; i < pads.size(); ++i)
        if (pads[i].part == part) found.push_back(static_cast<int>(i));
    return found;
}

} // namespace

Result<MillivoltModel> millivoltModel(const Board& board, const Stretch& stretch,
                                      const CopperNetworkSettings& settings) {
    auto rail = copperNetworks(board, stretch, settings);
    if (!rail) return rail.error();
    MillivoltModel model{std::move(rail.value()), std::nullopt};
    if (!model.fromCopper()) return model;
    if (auto ground = copperNetwork(board, groundOf(board), settings); ground && ground.value().fromCopper)
        model.ground = std::move(ground.value());
    return model;
}

class MillivoltLocator::Solved {
  public:
    Solved(const Board& board, const Stretch& stretch, const MillivoltModel& model,
           const MillivoltSetup& setup)
        : m_board(board), m_stretch(stretch), m_model(model), m_setup(setup) {}

    Outcome prepare() {
        if (m_model.rail.front().nodeOf(m_setup.inject) < 0)
            return Error{
                say("the place of injection is not on this rail"), m_board.placeOf(m_setup.inject), {}};
        for (const CopperNetwork& copper : m_model.rail)
            if (const auto added = addVariant(copper); !added) return added;
        if (!m_model.fromCopper()) addScales();
        if (m_hypotheses.empty())
            return Error{say("no part of this rail could short it"), nameOf(m_board, m_stretch), {}};
        if (const auto added = addGround(); !added) return added;
        return Done{};
    }

    Result<MillivoltFinding> locate(const std::vector<MillivoltReading>& readings) {
        for (const MillivoltReading& reading : readings) {
            const auto red = placeOf(reading.at);
            const auto black = reading.black ? placeOf(*reading.black) : std::nullopt;
            if (!red || (reading.black && !black))
                return Error{say("a reading beside the rail, or on a ground whose copper is not known"),
                             m_board.placeOf(red ? *reading.black : reading.at), say("the others are kept")};
            m_read.push_back({*red, black});
            m_volts.push_back(reading.volts);
        }
        // One rail reading is taken off all: the offset is free, and small numbers keep their digits.
        const auto first =
            std::find_if(m_read.begin(), m_read.end(), [&](const ReadAt& r) { return offsetsIn(r) == 1; });
        if (first != m_read.end()) {
            const double offset = m_volts[static_cast<std::size_t>(first - m_read.begin())];
            for (std::size_t i = 0; i < m_read.size(); ++i)
                m_volts[i] -= offsetsIn(m_read[i]) * offset;
        }
        weigh();
        MillivoltFinding finding;
        for (std::size_t s = 0; s < m_parts.size(); ++s)
            finding.candidates.push_back({m_parts[s], m_odds[s]});
        std::stable_sort(finding.candidates.begin(), finding.candidates.end(),
                         [](const PlaceOdds& a, const PlaceOdds& b) { return a.odds > b.odds; });
        chooseNext(finding);
        const double told = std::log2(static_cast<double>(m_odds.size())) - entropy();
        constexpr double little_bits = 0.1, something_bits = 0.2;
        finding.tells = told > something_bits || finding.gain_bits > little_bits;
        finding.notes = m_model.rail.front().notes;
        if (!finding.tells)
            finding.notes.emplace_back(
                say("this meter and this current cannot tell the places apart: take more current "
                    "within the limits, or a finer meter"));
        return finding;
    }

  private:
    std::optional<std::size_t> placeOf(PadRef pad) const {
        const auto found =
            std::find_if(m_places.begin(), m_places.end(), [&](const Place& p) { return p.pad == pad; });
        if (found == m_places.end()) return std::nullopt;
        return static_cast<std::size_t>(found - m_places.begin());
    }

    /// Every candidate on one guess of the rail's copper.
    Outcome addVariant(const CopperNetwork& copper) {
        std::vector<PadRef> pads;
        for (const NetIndex net : m_stretch.nets)
            for (const PadRef pad : m_board.padsOf(net))
                if (copper.nodeOf(pad) >= 0) pads.push_back(pad);
        const auto transfer = Transfer::create(copper, copper.nodeOf(m_setup.inject), pads);
        if (!transfer) return transfer.error();
        if (m_places.empty())
            for (const PadRef pad : transfer.value().pads())
                m_places.push_back({pad, false});
        for (const PartIndex part : m_stretch.suspects) {
            const auto fed = padsOfPart(part, transfer.value().pads());
            if (fed.empty()) continue;
            Hypothesis h;
            h.part = part;
            h.drop_v = m_setup.current.value * transfer.value().from(fed);
            if (copper.fromCopper) h.region_v = m_setup.current.value * transfer.value().regionsFrom(fed);
            m_hypotheses.push_back(std::move(h));
            if (std::find(m_parts.begin(), m_parts.end(), part) == m_parts.end()) m_parts.push_back(part);
        }
        return Done{};
    }

    /// Where the copper is guessed, its width and layers are too: every drop may be as much smaller or
    /// larger, and the guess may be a good or a poor one. The readings tell which.
    void addScales() {
        const auto guessed = m_hypotheses;
        m_hypotheses.clear();
        for (const double scale : {0.1, 0.3, 1.0, 3.0, 10.0, 30.0})
            for (const double doubt : {0.12, 0.4})
                for (const Hypothesis& h : guessed) {
                    Hypothesis scaled{h.part, scale * h.drop_v, Eigen::MatrixXd(h.drop_v.size(), 0), doubt};
                    scaled.mean_v = scaled.drop_v.mean();
                    scaled.spread_v = std::sqrt((scaled.drop_v.array() - scaled.mean_v).square().mean());
                    m_hypotheses.push_back(std::move(scaled));
                }
        for (const Place& a : m_places)
            for (const Place& b : m_places)
                m_extent_mm =
                    std::max(m_extent_mm, distance_mm(m_board.pad(a.pad).at, m_board.pad(b.pad).at));
    }

    /// What a guess gets wrong at two places: larger for larger drops, alike at near places.
    double guessCovariance(const Hypothesis& h, std::size_t a, std::size_t b) const {
        // Found on generated planes and traces and on real copper, other draws than the tests'.
        constexpr double reach = 0.15, everywhere = 2; // of the rail's extent; of the spread's square
        const double away = distance_mm(m_board.pad(m_places[a].pad).at, m_board.pad(m_places[b].pad).at);
        return std::exp(-away / (reach * m_extent_mm)) * h.guessDoubt * h.guessDoubt *
               ((h.drop_v[index(a)] - h.mean_v) * (h.drop_v[index(b)] - h.mean_v) +
                everywhere * h.spread_v * h.spread_v);
    }
    double guessCovariance(const Hypothesis& h, const ReadAt& a, const ReadAt& b) const {
        double sum = guessCovariance(h, a.red, b.red);
        if (b.black) sum -= guessCovariance(h, a.red, *b.black);
        if (a.black) sum -= guessCovariance(h, *a.black, b.red);
        if (a.black && b.black) sum += guessCovariance(h, *a.black, *b.black);
        return sum;
    }

    /// Ground pads of the candidates as further places, where the ground's copper is known.
    Outcome addGround() {
        if (!m_model.ground || !m_setup.minus) return Done{};
        const CopperNetwork& copper = *m_model.ground;
        const int minus = copper.nodeOf(*m_setup.minus);
        if (minus < 0) return Error{say("minus is not on ground"), m_board.placeOf(*m_setup.minus), {}};
        std::vector<PadRef> pads{*m_setup.minus};
        for (const PartIndex part : m_parts)
            for (int i = 0; i < static_cast<int>(m_board.parts[part].pads.size()); ++i)
                if (copper.nodeOf({part, i}) >= 0 && PadRef{part, i} != *m_setup.minus)
                    pads.push_back({part, i});
        const auto transfer = Transfer::create(copper, minus, pads);
        if (!transfer) return transfer.error();
        for (const PartIndex part : m_parts) // on an island of its own: the ground cannot be modelled
            if (padsOfPart(part, transfer.value().pads()).empty()) return Done{};
        for (const PadRef pad : transfer.value().pads())
            m_places.push_back({pad, true});
        for (Hypothesis& h : m_hypotheses) {
            const auto fed = padsOfPart(h.part, transfer.value().pads());
            const Eigen::VectorXd up = m_setup.current.value * transfer.value().from(fed);
            const Eigen::MatrixXd regions = m_setup.current.value * transfer.value().regionsFrom(fed);
            const Eigen::Index rail = h.drop_v.size(), railRegions = h.region_v.cols();
            h.drop_v.conservativeResize(rail + up.size());
            h.drop_v.tail(up.size()) = -up;
            Eigen::MatrixXd both = Eigen::MatrixXd::Zero(rail + up.size(), railRegions + regions.cols());
            both.topLeftCorner(rail, railRegions) = h.region_v;
            both.bottomRightCorner(up.size(), regions.cols()) = regions;
            h.region_v = std::move(both);
        }
        return Done{};
    }

    static double dropAt(const Hypothesis& h, const ReadAt& read) {
        return h.drop_v[index(read.red)] - (read.black ? h.drop_v[index(*read.black)] : 0);
    }
    static Eigen::RowVectorXd regionsAt(const Hypothesis& h, const ReadAt& read) {
        if (!read.black) return h.region_v.row(index(read.red));
        return h.region_v.row(index(read.red)) - h.region_v.row(index(*read.black));
    }
    static Eigen::Index index(std::size_t i) { return static_cast<Eigen::Index>(i); }

    /// How often the unknown c stands in a reading: once from ground to rail, not along either.
    int offsetsIn(const ReadAt& read) const {
        const int black = read.black && !m_places[*read.black].ground ? 1 : 0;
        return (m_places[read.red].ground ? 0 : 1) - black;
    }

    /// The same for what the black lead's place adds to readings on ground.
    int groundOffsetsIn(const ReadAt& read) const {
        const int black = read.black && m_places[*read.black].ground ? 1 : 0;
        return (m_places[read.red].ground ? 1 : 0) - black;
    }

    /// Prior covariance of two readings under a hypothesis, c and k integrated out; without the meter.
    double covariance(const Hypothesis& h, const ReadAt& a, const ReadAt& b) const {
        const double scale = m_model.fromCopper() ? scaleDoubt : guessedScaleDoubt;
        return scale * scale * dropAt(h, a) * dropAt(h, b) +
               offsetsIn(a) * offsetsIn(b) * freeOffset_v * freeOffset_v +
               groundOffsetsIn(a) * groundOffsetsIn(b) * groundOffset_v * groundOffset_v +
               (h.guessDoubt > 0 ? guessCovariance(h, a, b) : regionsAt(h, a).dot(regionsAt(h, b)));
    }
    /// Variance that each reading adds: half a digit either way, and the contact.
    double meterVariance() const {
        const double digit = m_setup.resolution.value, contact = m_setup.contact.value;
        return digit * digit / 12 + contact * contact;
    }

    /// Readings so far under a hypothesis.
    struct Fit {
        Eigen::LLT<Eigen::MatrixXd> chol;
        Eigen::VectorXd left; ///< what the mean does not explain
        double logLikelihood = 0;
    };
    Fit fit(const Hypothesis& h) const {
        const auto n = static_cast<Eigen::Index>(m_read.size());
        Eigen::VectorXd left(n);
        Eigen::MatrixXd sigma(n, n);
        for (Eigen::Index i = 0; i < n; ++i) {
            const auto k = static_cast<std::size_t>(i);
            left[i] = m_volts[k] + dropAt(h, m_read[k]);
            for (Eigen::Index j = 0; j <= i; ++j)
                sigma(i, j) = sigma(j, i) = covariance(h, m_read[k], m_read[static_cast<std::size_t>(j)]);
            sigma(i, i) += meterVariance();
        }
        Fit made{Eigen::LLT<Eigen::MatrixXd>(sigma), left, 0};
        if (n == 0) return made;
        const Eigen::VectorXd white = made.chol.matrixL().solve(left);
        made.logLikelihood = -white.squaredNorm() / 2 - made.chol.matrixLLT().diagonal().array().log().sum();
        return made;
    }

    /// Odds of the hypotheses, and of the parts: the sum over the guesses of the copper.
    void weigh() {
        m_fits.clear();
        double most = -1e300;
        for (const Hypothesis& h : m_hypotheses) {
            m_fits.push_back(fit(h));
            most = std::max(most, m_fits.back().logLikelihood);
        }
        double sum = 0;
        m_weight.clear();
        for (const Fit& made : m_fits) {
            m_weight.push_back(std::exp(made.logLikelihood - most));
            sum += m_weight.back();
        }
        m_odds.assign(m_parts.size(), 0);
        for (std::size_t h = 0; h < m_weight.size(); ++h)
            m_odds[indexOf(m_hypotheses[h].part)] += m_weight[h] /= sum;
        if (!m_model.fromCopper()) doubt();
    }

    /// A share of rails runs like none of the guesses: there the readings say little, and the odds are flat.
    void doubt() {
        constexpr double share = 0.1, flatness = 0.5;
        std::vector<double> flat;
        double sum = 0;
        for (const double odds : m_odds) {
            flat.push_back(std::pow(odds, flatness));
            sum += flat.back();
        }
        for (std::size_t i = 0; i < m_odds.size(); ++i)
            m_odds[i] = (1 - share) * m_odds[i] + share * flat[i] / sum;
    }
    std::size_t indexOf(PartIndex part) const {
        return static_cast<std::size_t>(std::find(m_parts.begin(), m_parts.end(), part) - m_parts.begin());
    }
    double entropy() const {
        double bits = 0;
        for (const double odds : m_odds)
            bits -= odds > 0 ? odds * std::log2(odds) : 0;
        return bits;
    }

    Forecast forecast(std::size_t which, std::size_t place) const {
        const Hypothesis& h = m_hypotheses[which];
        const ReadAt next{place, std::nullopt};
        const double own = covariance(h, next, next) + meterVariance();
        if (m_read.empty()) return {-h.drop_v[index(place)], own};
        Eigen::VectorXd shared(static_cast<Eigen::Index>(m_read.size()));
        for (Eigen::Index i = 0; i < shared.size(); ++i)
            shared[i] = covariance(h, next, m_read[static_cast<std::size_t>(i)]);
        const Eigen::VectorXd weights = m_fits[which].chol.solve(shared);
        return {-h.drop_v[index(place)] + weights.dot(m_fits[which].left),
                std::max(own - weights.dot(shared), meterVariance())};
    }

    /// The gain of a reading: how much wider the parts lie apart than each of them is, as if all were
    /// Gaussian; never more than is left to know.
    double gainOf(std::size_t place) const {
        struct Moments {
            double weight = 0, mean = 0, square = 0;
        };
        std::vector<Moments> parts(m_parts.size());
        Moments all;
        for (std::size_t h = 0; h < m_hypotheses.size(); ++h) {
            constexpr double negligible = 1e-9;
            if (m_weight[h] < negligible) continue;
            const Forecast f = forecast(h, place);
            for (Moments* m : {&parts[indexOf(m_hypotheses[h].part)], &all}) {
                m->weight += m_weight[h];
                m->mean += m_weight[h] * f.mean;
                m->square += m_weight[h] * (f.mean * f.mean + f.variance);
            }
        }
        const auto variance = [](const Moments& m) {
            const double mean = m.mean / m.weight;
            return std::max(m.square / m.weight - mean * mean, 1e-300);
        };
        double within = 0;
        for (const Moments& m : parts)
            if (m.weight > 0) within += m.weight * std::log2(variance(m));
        return std::clamp((std::log2(variance(all)) - within) / 2, 0.0, entropy());
    }

    void chooseNext(MillivoltFinding& finding) const {
        if (m_read.empty()) {
            // The first reading fixes the offset: the place of injection does so for every candidate alike.
            finding.readNext = m_setup.inject;
            finding.gain_bits = widestGain();
            return;
        }
        for (std::size_t place = 0; place < m_places.size(); ++place) {
            if (m_setup.minus && m_places[place].pad == *m_setup.minus) continue; // the black lead is there
            if (std::any_of(m_read.begin(), m_read.end(), [&](const ReadAt& r) { return r.red == place; }))
                continue;
            if (const double gain = gainOf(place); gain > finding.gain_bits) {
                finding.gain_bits = gain;
                finding.readNext = m_places[place].pad;
            }
        }
    }

    /// Before any reading: the gain of the second one, once the first has fixed the offset.
    double widestGain() const {
        Solved second = *this;
        second.m_read = {{*placeOf(m_setup.inject), std::nullopt}};
        second.m_volts = {0};
        second.weigh();
        double most = 0;
        for (std::size_t place = 0; place < m_places.size(); ++place)
            if (place != second.m_read.front().red) most = std::max(most, second.gainOf(place));
        return most;
    }

    const Board& m_board;
    Stretch m_stretch;
    const MillivoltModel& m_model;
    MillivoltSetup m_setup;
    std::vector<Place> m_places;
    double m_extent_mm = 1;
    std::vector<PartIndex> m_parts;
    std::vector<Hypothesis> m_hypotheses;
    std::vector<ReadAt> m_read;
    std::vector<double> m_volts;
    std::vector<Fit> m_fits;
    std::vector<double> m_weight, m_odds; ///< of the hypotheses, of the parts
};

Result<MillivoltLocator> MillivoltLocator::create(const Board& board, const Stretch& stretch,
                                                  const MillivoltModel& model, const MillivoltSetup& setup) {
    auto solved = std::make_shared<Solved>(board, stretch, model, setup);
    if (const auto prepared = solved->prepare(); !prepared) return prepared.error();
    return MillivoltLocator(std::move(solved));
}

Result<MillivoltFinding> MillivoltLocator::locate(const std::vector<MillivoltReading>& readings) const {
    Solved asked = *m_solved;
    return asked.locate(readings);
}

} // namespace ustor
