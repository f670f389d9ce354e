#pragma once

namespace ustor {

/// What is known of a supply's output: from what was read, never from what was asked.
enum class OutputState {
    Unreached, ///< no supply answers, and nothing says that its output was ever on
    Off,       ///< read as off
    On,        ///< read as on and wanted so, or told so recently that nothing was read yet
    Unknown,   ///< it was on or was asked to come on, and what became of it cannot be read
    Disobeys   ///< read as on although it was told to go off
};

/// The word for a log.
const char* wordOf(OutputState state);

/// The output may be on, and nobody here can switch it off: a person has to.
inline bool needsHands(OutputState state) {
    return state == OutputState::Unknown || state == OutputState::Disobeys;
}

/// Two things side by side, what was asked and what was read back, and the state that follows from them. One
/// for guard and window. Pure: time comes in, seconds of any one clock.
class OutputWatch {
  public:
    struct Patience {
        double obeys_s = 0.5; ///< longest that a told supply takes to read as off
        double fresh_s = 1;   ///< what was read longer ago tells nothing of now
    };
    OutputWatch() : OutputWatch(Patience()) {}
    explicit OutputWatch(Patience patience) : m_patience(patience) {}
    void setPatience(Patience patience) { m_patience = patience; }

    /// Somebody before us may have left it on.
    void doubt() { m_mayBeOn = true; }
    void askOn(double time_s);
    void askOff(double time_s);
    void read(bool on, double time_s);
    /// The way to the supply is gone: nothing is wanted of it any more.
    void lose(double time_s);
    /// A person says that the leads are off: nothing hangs on this output any more.
    void leadsPulled() { m_mayBeOn = false; }

    OutputState state(double now_s) const;
    /// It was asked on or read as on, and not read as off since.
    bool mayBeOn() const { return m_mayBeOn; }
    bool wanted() const { return m_wanted; }

  private:
    Patience m_patience;
    bool m_wanted = false, m_mayBeOn = false, m_linked = false, m_read = false;
    double m_onAsked_s = 0, m_offAsked_s = -1; ///< the latter below 0: not since it was last read as off
    double m_read_s = 0;
};

} // namespace ustor
