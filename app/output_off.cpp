#include "app/output_off.h"

#include "app/look.h"

#include <QPainter>

namespace ustor {
namespace {

/// What stands below the control's name.
QString stateWords(OutputState state) {
    switch (state) {
    case OutputState::Unknown:
        return OutputOff::tr("no supply is reached (Esc)");
    case OutputState::Off:
        return OutputOff::tr("it is off (Esc)");
    case OutputState::On:
        return OutputOff::tr("ENERGISED: press Esc");
    case OutputState::ByHand:
        return OutputOff::tr("by YOUR hand; Esc ends the beats");
    }
    return {};
}

QString spoken(OutputState state) {
    switch (state) {
    case OutputState::Unknown:
        return OutputOff::tr("Switch the output off. No supply is reached.");
    case OutputState::Off:
        return OutputOff::tr("Switch the output off. It is off.");
    case OutputState::On:
        return OutputOff::tr("Switch the output off. It is on.");
    case OutputState::ByHand:
        return OutputOff::tr("End the beats, then switch the output off by hand.");
    }
    return {};
}

} // namespace

OutputOff::OutputOff(QWidget* parent) : QAbstractButton(parent) {
    setObjectName("outputOff");
    setFixedWidth(220);
    setMinimumHeight(78);
    tell(OutputState::Unknown);
}

void OutputOff::tell(OutputState state) {
    m_state = state;
    setAccessibleName(spoken(state));
    update();
}

void OutputOff::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    const QRect room = rect().adjusted(4, 4, -5, -5);
    painter.setPen(QPen(isOn() ? look.ember : look.ink, hasFocus() ? 4 : 2));
    painter.setBrush(isOn() ? look.ember : look.plate);
    painter.drawRect(room);
    painter.setPen(isOn() ? look.emberText : look.ink);
    painter.setFont(Look::bold(Look::large()));
    painter.drawText(room.adjusted(0, 8, 0, -24), Qt::AlignCenter, tr("Output off"));
    painter.setFont(Look::small());
    painter.drawText(room.adjusted(0, 40, 0, -4), Qt::AlignCenter, stateWords(m_state));
}

} // namespace ustor
