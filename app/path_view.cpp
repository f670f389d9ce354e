#include "app/path_view.h"

#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "rail/handy_place.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <utility>

namespace ustor {
PathView::PathView(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Power path"));
    setAccessibleDescription(tr("Arrows go from rail to rail, Enter measures the chosen one."));
}

void PathView::show(const Assessment* assessment) {
    m_assessment = assessment;
    m_stale = true;
    update();
}

const PowerPath& PathView::path() const {
    if (!std::exchange(m_stale, false)) return m_path;
    m_path = m_assessment ? powerPath(m_assessment->state.board, m_assessment->links) : PowerPath{};
    m_columns = m_rows = 1;
    for (const PathPlace& place : m_path.places) {
        m_columns = std::max(m_columns, place.column + 1);
        m_rows = std::max(m_rows, place.row + 1);
    }
    return m_path;
}

RailState PathView::stateOf(int place) const {
    if (!m_assessment) return RailState::Unknown;
    const Stretch stretch =
        stretchOf(m_assessment->state.board, *m_assessment->state.netParts,
                  path().places[static_cast<std::size_t>(place)].net, m_assessment->links);
    return newestReading(m_assessment->state, stretch).ruling.state;
}

bool PathView::isFreed(int place) const {
    const NetIndex net = path().places[static_cast<std::size_t>(place)].net;
    for (const Stretch& freed : m_assessment->cleared)
        if (freed.holds(net)) return true;
    return false;
}

QRectF PathView::plateOf(int place) const {
    const PathPlace& p = path().places[static_cast<std::size_t>(place)];
    const double column = (width() - 40.0) / m_columns, row = (height() - 60.0) / m_rows;
    const double w = std::clamp(column * 0.52, 60.0, 150.0), h = std::clamp(row * 0.66, 16.0, 46.0);
    return {20 + column * p.column + (column - w) / 2, 36 + row * p.row + (row - h) / 2, w, h};
}

QString PathView::wordsOf(const PathStep& step) const {
    QStringList names;
    for (const PartIndex p : step.parts)
        names << text(m_assessment->state.board.parts[p].designator);
    constexpr qsizetype most = 3;
    if (names.size() > most) names = names.mid(0, most) << QStringLiteral("\u2026");
    return names.join(" ");
}

void PathView::paintStep(QPainter& painter, const PathStep& step) const {
    const Look& look = Look::current();
    const QRectF a = plateOf(step.from), b = plateOf(step.to);
    const bool along = path().places[static_cast<std::size_t>(step.to)].column >
                       path().places[static_cast<std::size_t>(step.from)].column;
    const QPointF start(along ? a.right() : a.center().x(), along ? a.center().y() : a.bottom()),
        end(along ? b.left() : b.center().x(), along ? b.center().y() : b.top());
    const double turn = start.x() + (end.x() - start.x()) * 0.5;
    QPen pen(look.ink, 1.2);
    if (step.cut) pen.setStyle(Qt::DotLine);
    if (step.kind == StepKind::Switch) pen.setDashPattern({6, 3});
    painter.setPen(pen);
    painter.drawPolyline(QPolygonF() << start << QPointF(turn, start.y()) << QPointF(turn, end.y()) << end);
    // What the step is: a gap for a switch, a wave for a converter, a bar for a link.
    painter.setFont(Look::small());
    const QString words = step.cut ? tr("%1 lifted").arg(wordsOf(step)) : wordsOf(step);
    QRectF room = painter.fontMetrics().boundingRect(words).adjusted(-3, -1, 3, 1);
    room.moveCenter({(turn + end.x()) / 2, end.y() - room.height() / 2 - 2});
    painter.setPen(look.faint);
    painter.drawText(room, Qt::AlignCenter, words);
    const QPointF kind(turn, (start.y() + end.y()) / 2);
    painter.setPen(QPen(look.ink, 1.2));
    painter.setBrush(look.paper);
    if (step.kind == StepKind::Converter) painter.drawEllipse(kind, 6, 6);
    if (step.kind == StepKind::Linear) painter.drawRect(QRectF(kind - QPointF(5, 5), QSizeF(10, 10)));
}

void PathView::paintPlace(QPainter& painter, int place) const {
    const Look& look = Look::current();
    const Board& board = m_assessment->state.board;
    const PathPlace& p = path().places[static_cast<std::size_t>(place)];
    const QRectF plate = plateOf(place);
    const RailState state = stateOf(place);
    const bool down = state == RailState::Short || state == RailState::Partial, freed = isFreed(place);
    QColor ink = look.ink;
    if (freed) ink = look.faint;
    QPen pen(ink, down ? 4 : 1.4);
    if (state == RailState::Unknown && !freed) pen.setStyle(Qt::DashLine);
    painter.setPen(pen);
    painter.setBrush(look.plate);
    painter.drawRect(plate);
    if (place == m_chosen) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(look.ink, 1, Qt::DotLine));
        painter.drawRect(plate.adjusted(-5, -5, 5, 5));
    }
    painter.setPen(ink);
    const bool roomy = plate.height() > 34;
    painter.setFont(roomy ? Look::bold(Look::text()) : Look::bold(Look::small()));
    const Net& net = board.nets[p.net];
    const QString name = painter.fontMetrics().elidedText(text(net.name), Qt::ElideMiddle,
                                                          static_cast<int>(plate.width()) - 8);
    if (!roomy)
        return painter.drawText(plate, Qt::AlignCenter,
                                name + (freed ? QStringLiteral(" \u2713") : QString()));
    painter.drawText(plate.adjusted(4, 3, -4, 0), Qt::AlignHCenter | Qt::AlignTop, name);
    painter.setFont(Look::small());
    QString below = freed ? tr("free \u2713") : text(labelOf(state));
    if (net.nominal) below = text(quantityText(net.nominal->value, "V")) + ", " + below;
    painter.drawText(
        plate.adjusted(2, 0, -2, -4), Qt::AlignHCenter | Qt::AlignBottom,
        painter.fontMetrics().elidedText(below, Qt::ElideRight, static_cast<int>(plate.width()) - 6));
}

void PathView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Look& look = Look::current();
    painter.fillRect(rect(), look.paper);
    painter.setPen(look.ink);
    if (!m_assessment) return;
    painter.setFont(Look::small());
    if (path().places.empty())
        return painter.drawText(
            rect(), Qt::AlignCenter,
            tr("No way of the power can be told: no connector and no rail with a known voltage.\n"
               "Give nets a working voltage in the line below the board."));
    painter.drawText(QRectF(20, 6, width() - 40, 20), Qt::AlignLeft | Qt::AlignVCenter,
                     tr("heavy: down      plain: healthy or low by nature      dashed: not read      circle: "
                        "converter      "
                        "square: linear regulator      broken line: switch"));
    for (const PathStep& step : path().steps)
        paintStep(painter, step);
    for (int i = 0; i < static_cast<int>(path().places.size()); ++i)
        paintPlace(painter, i);
    if (hasFocus()) {
        painter.setPen(QPen(look.faint, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

void PathView::choose(int place) {
    m_chosen = place;
    update();
    if (place >= 0)
        emit netChosen(
            text(m_assessment->state.board.nets[path().places[static_cast<std::size_t>(place)].net].name));
}

void PathView::mousePressEvent(QMouseEvent* event) {
    for (int i = 0; i < static_cast<int>(path().places.size()); ++i)
        if (plateOf(i).contains(event->position())) return choose(i);
    choose(-1);
}

void PathView::keyPressEvent(QKeyEvent* event) {
    const int dx = (event->key() == Qt::Key_Right) - (event->key() == Qt::Key_Left),
              dy = (event->key() == Qt::Key_Down) - (event->key() == Qt::Key_Up);
    if (path().places.empty() || !m_assessment) return QWidget::keyPressEvent(event);
    if (event->key() == Qt::Key_Return && m_chosen >= 0)
        return emit measureWanted(text(handyPlace(m_assessment->state.board, *m_assessment->state.netParts,
                                                  path().places[static_cast<std::size_t>(m_chosen)].net)));
    if (dx == 0 && dy == 0) return QWidget::keyPressEvent(event);
    if (m_chosen < 0) return choose(0);
    // The nearest plate in that direction.
    const QPointF from = plateOf(m_chosen).center();
    int best = -1;
    double least = 1e9;
    for (int i = 0; i < static_cast<int>(path().places.size()); ++i) {
        const QPointF d = plateOf(i).center() - from;
        const double ahead = d.x() * dx + d.y() * dy, aside = std::fabs(d.x() * dy) + std::fabs(d.y() * dx);
        if (i != m_chosen && ahead > 5 && ahead + 2 * aside < least) {
            least = ahead + 2 * aside;
            best = i;
        }
    }
    if (best >= 0) choose(best);
}

} // namespace ustor
