#pragma once

#include <QAbstractButton>

namespace ustor {

/// The one large control that switches off, on every screen. Ember while energised.
class OutputOff : public QAbstractButton {
    Q_OBJECT
  public:
    explicit OutputOff(QWidget* parent = nullptr);
    /// `byHand`: it can only end the beats; a person has to switch.
    void setOn(bool on, bool byHand = false);
    bool isOn() const { return m_on; }
    QSize sizeHint() const override { return {220, 78}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    bool m_on = false, m_byHand = false;
};

} // namespace ustor
