#include "demo/window_walk.h"

#include "app/entry_bar.h"
#include "app/hand_switching.h"
#include "app/heat_view.h"
#include "app/next_panel.h"
#include "app/plate/plate_view.h"
#include "app/workbench.h"
#include "base/random.h"

#include <QApplication>
#include <QComboBox>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QTimer>
#include <algorithm>

namespace ustor {

bool WindowWalk::waitUntil(const std::function<bool()>& done, int milliseconds) {
    QElapsedTimer clock;
    clock.start();
    while (!done()) {
        if (clock.elapsed() > milliseconds) return false;
        QEventLoop loop;
        QTimer::singleShot(10, &loop, &QEventLoop::quit);
        loop.exec();
    }
    return true;
}

bool WindowWalk::clickLandmarks() {
    Workbench& bench = m_window.workbench();
    HeatView& heat = bench.heat();
    Random random(5);
    // Let the picture settle, as a person would.
    waitUntil([] { return false; }, 900);
    at(Moment::Aligning);
    while (heat.asking()) {
        const PartIndex part = bench.session()->board().findPart(heat.asked().toStdString());
        std::optional<Result<QJsonObject>> seen;
        bench.hands()->send(Hands::whereSeen(bench.session()->board().parts[part].centre),
                            [&](const Result<QJsonObject>& answer) { seen = answer; });
        if (!waitUntil([&] { return seen.has_value(); }, 5000) || !*seen)
            return m_trouble = "the simulated bench does not say where a landmark is seen", false;
        const PixelPoint pixel = Hands::pixelIn(seen->value());
        constexpr double noise_px = 0.3;
        const double middle_px = (enlarged - 1) / 2.0;
        const QPointF p = heat.toView({enlarged * (pixel.x_px + noise_px * random.normal()) + middle_px,
                                       enlarged * (pixel.y_px + noise_px * random.normal()) + middle_px});
        QMouseEvent press(QEvent::MouseButtonPress, p, heat.mapToGlobal(p), Qt::LeftButton, Qt::LeftButton,
                          Qt::NoModifier);
        QApplication::sendEvent(&heat, &press);
    }
    return true;
}

/// What the source of the demo's board shows, as a person types it: dead at first, alive when it is repaired.
const char* WindowWalk::shownBySource() const {
    const auto& state = m_window.workbench().session()->assessment().state;
    return state.replaced.empty() ? "12 0.02 none" : "12 0.45 starts";
}

bool WindowWalk::typeSource() {
    auto* value = m_window.workbench().findChild<QLineEdit*>("entryValue");
    value->setText(shownBySource());
    for (const QEvent::Type type : {QEvent::KeyPress, QEvent::KeyRelease}) {
        QKeyEvent enter(type, Qt::Key_Return, Qt::NoModifier);
        QApplication::sendEvent(value, &enter);
    }
    return true;
}

bool WindowWalk::pressNext() {
    Workbench& bench = m_window.workbench();
    const auto& next = bench.session()->assessment().next;
    if (next.empty()) return m_trouble = "nothing to do next", false;
    const MoveKind kind = next.front().kind;
    // A caution that was met is a fact, and no move.
    const auto facts = [&bench] {
        const auto& all = bench.session()->facts();
        return std::count_if(all.begin(), all.end(), [](const Fact& fact) {
            return !std::holds_alternative<CautionMet>(fact.body) &&
                   !std::holds_alternative<Aligned>(fact.body);
        });
    };
    const auto before = facts();
    const bool typed = kind == MoveKind::ReadSource || kind == MoveKind::FirstPower;
    const auto asksToType = [&] {
        return typed && bench.findChild<QComboBox*>("entryKind")->currentData() == "plug-in";
    };
    const auto moved = [&] {
        return asksToType() || facts() > before || bench.heat().asking() || bench.injecting() ||
               (bench.byHand() && bench.byHand()->waits());
    };
    // A press does the move, or meets the caution before it, or is asked for again where the meter read
    // nothing: nothing else is a reason for another.
    for (bool goesOn = true; goesOn && !moved();) {
        const bool caution = bench.next().cautionShown();
        // Through the event loop, as a key comes.
        QMetaObject::invokeMethod(
            &bench, [&bench] { bench.doNext(); }, Qt::QueuedConnection);
        constexpr int patience_ms = 6000;
        const bool again = bench.asksAgain();
        const auto met = [&] { return caution && !bench.next().cautionShown(); };
        const auto asked = [&] { return !again && bench.asksAgain(); };
        waitUntil([&] { return moved() || met() || asked(); }, patience_ms);
        goesOn = met() || asked();
    }
    if (asksToType()) typeSource();
    if (bench.heat().asking() && !clickLandmarks()) return false;
    if (bench.byHand() && bench.byHand()->waits()) bench.doNext(); // the supply is set
    if (bench.injecting()) {
        waitUntil([] { return false; }, 2500);
        at(Moment::Injecting);
        if (m_ended) return m_trouble = "ended as asked", false;
        if (!waitUntil([&] { return !bench.injecting(); }, 180000))
            return m_trouble = "the injection did not end", false;
        waitUntil([&] { return facts() > before; }, 20000);
    }
    if (facts() == before)
        return m_trouble = "the move '" + next.front().sentence.text() + "' did nothing; the window says: " +
                           bench.findChild<QLabel*>("entrySaid")->text().toStdString(),
               false;
    if (kind == MoveKind::Lift) at(Moment::Lifted);
    return true;
}

bool WindowWalk::playToTheEnd() {
    Workbench& bench = m_window.workbench();
    const auto ready = [&] {
        return bench.bench() &&
               (!bench.bench()->address().supply.known() || bench.bench()->supply().isConnected()) &&
               bench.bench()->meter().isConnected() && bench.bench()->camera().isConnected();
    };
    if (!waitUntil(ready, 8000)) return m_trouble = "the bench did not connect", false;
    bool surveyed = false, proven = false;
    constexpr int mostMoves = 60;
    for (int i = 0; i < mostMoves; ++i) {
        const Assessment& a = bench.session()->assessment();
        if (a.state.closed) return at(Moment::Closed), true;
        if (!surveyed && !a.down.nets.empty()) {
            surveyed = true;
            at(Moment::Surveyed);
        }
        if (!a.next.empty() && a.next.front().kind == MoveKind::Lift && a.state.lifted.empty() &&
            m_judged.suspects.empty()) {
            m_judged = a;
            at(Moment::Judged);
        }
        if (!proven && !a.culprit.empty()) {
            proven = true;
            at(Moment::Proven);
        }
        if (!pressNext()) return false;
    }
    return m_trouble = "too many moves", false;
}

} // namespace ustor
