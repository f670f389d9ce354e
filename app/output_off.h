#pragma once

#include <QAbstractButton>

namespace ustor {

/// The one large control that switches off, on every screen. Ember while energised.
class OutputOff : public QAbstractButton {
    Q_OBJECT
  public:
    explicit OutputOff(QWidget* parent = nullptr);
    void setOn(bool on);
    bool isOn() const { return m_on; }
    QSize sizeHint() const override { return {220, 78}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    bool m_on = false;
};

} // namespace ustor
