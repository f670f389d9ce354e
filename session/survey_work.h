#pragma once

#include "diagnosis/steady_reading.h"
#include "rail/survey_way.h"
#include "session/case_session.h"

namespace ustor {

/// Guided probing: the stops of a walk over the rails, one reading each, judged as it is taken. Every reading
/// is a fact at once; skipping and going back change only where the walk stands.
class SurveyWork {
  public:
    struct Settings {
        MeterMode mode = MeterMode::Ohms;
        bool reversed = false;            ///< leads the other way round
        std::vector<NetIndex> rails = {}; ///< empty: all power nets
        Side first = Side::Top;
        SteadyRule steady = {};
    };
    /// What stands at a stop.
    struct Result {
        std::string place;
        long fact = 0; ///< 0: not read yet
        Reading reading;
        RailRuling ruling;
        bool skipped = false;
    };

    SurveyWork(CaseSession& session, Settings settings);

    const std::vector<SurveyStop>& stops() const { return m_stops; }
    /// As the case stands now: a reading that was struck out is open again.
    Result at(std::size_t stop) const;
    /// From now on a wired meter's steady readings are taken, or not any more. Never on a closed case.
    void read(bool on);
    bool reads() const { return m_reads; }
    std::size_t current() const { return m_current; }
    bool finished() const { return m_current >= m_stops.size(); }
    const Settings& settings() const { return m_settings; }
    int agreeing() const { return m_steady.agreeing(); }

    /// A reading of a wired meter; it is taken once steady, in a walk that was begun on purpose (`read`).
    /// Returns what was taken.
    std::optional<Result> watch(const Reading& reading);
    /// Takes it as it is: typed, or at the press of a key. A warm board is asked again at the end of the
    /// walk.
    ustor::Result<Result> take(const Reading& reading);
    /// The probes have left the place: the next steady reading belongs to the next stop. Told by over range
    /// or by another value where nobody says so.
    void lifted() { m_left = true; }
    void skip();
    void back(); ///< to the stop before, to be read again
    void goTo(std::size_t stop);

  private:
    void onward();
    double jitter(const Reading& reading) const;

    CaseSession& m_session;
    Settings m_settings;
    std::vector<SurveyStop> m_stops;
    std::vector<long> m_facts; ///< newest reading of each stop; 0 for none
    std::vector<bool> m_skipped;
    std::size_t m_current = 0;
    SteadyReading m_steady;
    Reading m_last;     ///< what was taken at the stop before
    bool m_left = true; ///< the probes have left that stop
    bool m_reads = false;
};

} // namespace ustor
