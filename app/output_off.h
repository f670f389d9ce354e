#pragma once

#include "bench/output_watch.h"

#include <QAbstractButton>

namespace ustor {

/// What is known of the output, and who could switch it.
struct OutputShown {
    OutputState state = OutputState::Unreached;
    bool byHand = false;     ///< a person switches it: nothing can be read
    bool comesAgain = false; ///< off between two pulses: the next comes by itself
    /// The board counts as energised.
    bool ember() const { return state == OutputState::On || needsHands(state) || byHand || comesAgain; }
};

/// The one large control that switches off, on every screen. Ember while energised.
class OutputOff : public QAbstractButton {
    Q_OBJECT
  public:
    explicit OutputOff(QWidget* parent = nullptr);
    void tell(const OutputShown& shown);
    const OutputShown& shown() const { return m_shown; }
    QSize sizeHint() const override { return {220, 78}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    OutputShown m_shown;
};

} // namespace ustor
