#include "app/output_off.h"

#include "app/look.h"

#include <QPainter>

namespace ustor {
namespace {

/// What stands below the control's name.
QString stateWords(const OutputShown& shown) {
    if (shown.byHand) return OutputOff::tr("by YOUR hand; Esc ends the beats");
    switch (shown.state) {
    case OutputState::Unreached:
        return OutputOff::tr("no supply is reached (Esc)");
    case OutputState::Off:
        return shown.comesAgain ? OutputOff::tr("PULSES: press Esc") : OutputOff::tr("read as off (Esc)");
    case OutputState::On:
        return OutputOff::tr("ENERGISED: press Esc");
    case OutputState::Unknown:
        return OutputOff::tr("MAY STILL BE ON (Esc)");
    case OutputState::Disobeys:
        return OutputOff::tr("STILL ON, does not obey");
    }
    return {};
}

QString spoken(const OutputShown& shown) {
    if (shown.byHand) return OutputOff::tr("End the beats, then switch the output off by hand.");
    switch (shown.state) {
    case OutputState::Unreached:
        return OutputOff::tr("Switch the output off. No supply is reached.");
    case OutputState::Off:
        return OutputOff::tr("Switch the output off. It was read as off.");
    case OutputState::On:
        return OutputOff::tr("Switch the output off. It is on.");
    case OutputState::Unknown:
    case OutputState::Disobeys:
        return OutputOff::tr(
            "Switch the output off. It may still be on: switch it off by hand, pull the leads.");
    }
    return {};
}

} // namespace

OutputOff::OutputOff(QWidget* parent) : QAbstractButton(parent) {
    setObjectName("outputOff");
    setFixedWidth(220);
    setMinimumHeight(78);
    tell({});
}

void OutputOff::tell(const OutputShown& shown) {
    m_shown = shown;
    setAccessibleName(spoken(shown));
    update();
}

void OutputOff::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    const QRect room = rect().adjusted(4, 4, -5, -5);
    painter.setPen(QPen(m_shown.ember() ? look.ember : look.ink, hasFocus() ? 4 : 2));
    painter.setBrush(m_shown.ember() ? look.ember : look.plate);
    painter.drawRect(room);
    painter.setPen(m_shown.ember() ? look.emberText : look.ink);
    painter.setFont(Look::bold(Look::large()));
    painter.drawText(room.adjusted(0, 8, 0, -24), Qt::AlignCenter, tr("Output off"));
    painter.setFont(Look::small());
    painter.drawText(room.adjusted(0, 40, 0, -4), Qt::AlignCenter, stateWords(m_shown));
}

} // namespace ustor
