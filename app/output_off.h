#pragma once

#include <QAbstractButton>

namespace ustor {

/// What is known of the supply's output.
enum class OutputState {
    Unknown, ///< no supply is reached: a person has to look
    Off,
    On,
    ByHand ///< on, and only a hand can switch it
};

/// The one large control that switches off, on every screen. Ember while energised.
class OutputOff : public QAbstractButton {
    Q_OBJECT
  public:
    explicit OutputOff(QWidget* parent = nullptr);
    void tell(OutputState state);
    bool isOn() const { return m_state == OutputState::On || m_state == OutputState::ByHand; }
    QSize sizeHint() const override { return {220, 78}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    OutputState m_state = OutputState::Unknown;
};

} // namespace ustor
