#include "app/output_off.h"

#include "app/look.h"

#include <QPainter>

namespace ustor {

OutputOff::OutputOff(QWidget* parent) : QAbstractButton(parent) {
    setObjectName("outputOff");
    setFixedWidth(220);
    setMinimumHeight(78);
    setOn(false);
}

void OutputOff::setOn(bool on, bool byHand) {
    m_on = on;
    m_byHand = on && byHand;
    setAccessibleName(m_byHand ? tr("End the beats, then switch the output off by hand.")
                      : on     ? tr("Switch the output off. It is on.")
                               : tr("Switch the output off. It is off."));
    update();
}

void OutputOff::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    const QRect room = rect().adjusted(4, 4, -5, -5);
    painter.setPen(QPen(m_on ? look.ember : look.ink, hasFocus() ? 4 : 2));
    painter.setBrush(m_on ? look.ember : look.plate);
    painter.drawRect(room);
    painter.setPen(m_on ? look.emberText : look.ink);
    painter.setFont(Look::bold(Look::large()));
    painter.drawText(room.adjusted(0, 8, 0, -24), Qt::AlignCenter, tr("Output off"));
    painter.setFont(Look::small());
    painter.drawText(room.adjusted(0, 40, 0, -4), Qt::AlignCenter,
                     m_byHand ? tr("by YOUR hand; Esc ends the beats")
                     : m_on   ? tr("ENERGISED: press Esc")
                              : tr("it is off (Esc)"));
}

} // namespace ustor
