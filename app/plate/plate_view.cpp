#include "app/plate/plate_view.h"

#include "app/look.h"
#include "app/plate/board_drawing.h"
#include "app/words.h"
#include "board/sketch/photo_frame.h"

#include <QElapsedTimer>
#include <QKeyEvent>
#include <QPainter>
#include <QTimer>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <set>

namespace ustor {

PlateView::PlateView(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(false);
    m_rest.setSingleShot(true);
    connect(&m_rest, &QTimer::timeout, this, [this] {
        if (board()) engrave();
        update();
    });
    setMinimumSize(320, 160);
    setAccessibleName(tr("Board"));
    setAccessibleDescription(tr(
        "The board with suspects and heat. Arrows move, plus and minus zoom, F turns it over, 0 shows all."));
}

void PlateView::show(const Assessment* assessment) {
    const bool first = !m_assessment && assessment;
    m_assessment = assessment;
    if (!assessment) {
        m_plate = {};
        m_photos.clear();
        setCopper({}, {});
    }
    if (first) readPhotos();
    // In a turn of the event loop of its own: drawing the whole board takes as long as all that follows from
    // a fact.
    m_stale = true;
    QTimer::singleShot(0, this, [this] {
        if (!m_stale || !board()) return;
        engrave();
        update();
    });
    if (first || m_fitted) fit();
    update();
}

void PlateView::fit() {
    m_fitted = true;
    if (!board() || width() < 10) return;
    const BoardBox box = board()->box();
    m_middle = {(box.low.x_mm + box.high.x_mm) / 2, (box.low.y_mm + box.high.y_mm) / 2};
    m_scale = 0.93 * std::min(width() / std::max(1.0, box.width_mm()),
                              (height() - 40) / std::max(1.0, box.height_mm()));
    update();
}

QTransform PlateView::transform() const {
    QTransform t;
    t.translate(width() / 2.0, height() / 2.0 - 8);
    t.scale(m_side == Side::Top ? m_scale : -m_scale, -m_scale);
    t.translate(-m_middle.x(), -m_middle.y());
    return t;
}

QPointF PlateView::toView(BoardPoint p) const {
    return transform().map(QPointF(p.x_mm, p.y_mm));
}

BoardPoint PlateView::toBoard(QPointF p) const {
    const QPointF q = transform().inverted().map(p);
    return {q.x(), q.y()};
}

void PlateView::setSide(Side side) {
    if (side == m_side) return;
    m_side = side;
    emit sideChanged(side);
    update();
}

void PlateView::setTouch(const std::string& place) {
    m_touch = place;
    update();
}

void PlateView::setHeat(const LiveHeat& heat, const std::optional<Registration>& registration) {
    m_heat.set(heat, registration);
    update();
}

void PlateView::clearHeat() {
    m_heat.clear();
    update();
}

void PlateView::setCopper(std::vector<CopperPicture> pictures, const QString& words) {
    m_copper.set(std::move(pictures), words);
    update();
}

void PlateView::readPhotos() {
    m_photos.clear();
    if (!board()) return;
    for (const BoardPhoto& photo : board()->photos) {
        const auto frame = PhotoFrame::create(photo);
        const QImage image(text(photo.file));
        if (!frame || image.isNull()) continue;
        const auto& m = frame.value().matrix(); // Qt multiplies from the left: its matrix is the other way up
        m_photos[photo.side] = {image, QTransform(m(0, 0), m(1, 0), m(2, 0), m(0, 1), m(1, 1), m(2, 1),
                                                  m(0, 2), m(1, 2), m(2, 2))};
    }
}

/// The photo stays the background of a sketched board, pale enough to be drawn on.
void PlateView::paintPhoto(QPainter& painter) {
    const auto photo = m_photos.find(m_side);
    if (photo == m_photos.end()) return;
    painter.save();
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.setOpacity(0.45);
    painter.setTransform(photo->second.toBoard * transform(), true);
    painter.drawImage(0, 0, photo->second.image);
    painter.restore();
}

void PlateView::select(const std::string& part) {
    m_selected = part;
    update();
}

bool PlateView::find(const QString& name) {
    if (!board()) return false;
    const std::string wanted = name.trimmed().toStdString();
    m_shownNet = -1;
    if (const PartIndex p = board()->findPart(wanted); p >= 0) {
        const Part& part = board()->parts[p];
        setSide(part.side);
        m_selected = part.designator;
        m_middle = {part.centre.x_mm, part.centre.y_mm};
        m_scale = std::max(m_scale, 14.0);
        m_fitted = false;
        update();
        emit partChosen(text(part.designator));
        return true;
    }
    m_shownNet = board()->findNet(wanted);
    update();
    if (m_shownNet >= 0) emit netChosen(text(board()->nets[m_shownNet].name));
    return m_shownNet >= 0;
}

void PlateView::zoomBy(double factor, QPointF around) {
    const BoardPoint before = toBoard(around);
    m_scale = std::clamp(m_scale * factor, 1.0, 120.0);
    const BoardPoint after = toBoard(around);
    m_middle += QPointF(before.x_mm - after.x_mm, before.y_mm - after.y_mm);
    m_fitted = false;
    update();
}

void PlateView::paintBoard(QPainter& painter) {
    BoardDrawing drawing(painter, transform(), m_scale);
    drawing.outline(*board());
    paintPhoto(painter);
    const Assessment& a = *m_assessment;
    std::set<std::string> cleared;
    for (const Suspect& s : a.suspects)
        if (s.cleared && s.part >= 0) cleared.insert(board()->parts[s.part].designator);
    for (const Stretch& freed : a.cleared)
        for (const PartIndex p : freed.suspects)
            cleared.insert(board()->parts[p].designator);
    const std::set<PartIndex> onStretch(a.down.links.begin(), a.down.links.end());
    constexpr std::size_t many = 2000; // below that every part keeps its form
    const bool specks = board()->parts.size() > many;
    const auto shown = [&](NetIndex net) { return net >= 0 && (a.down.holds(net) || net == m_shownNet); };
    for (const bool near : {false, true})
        for (PartIndex p = 0; p < static_cast<PartIndex>(board()->parts.size()); ++p) {
            const Part& part = board()->parts[p];
            if ((part.side == m_side) != near) continue;
            const double reach_mm = std::hypot(part.width_mm, part.height_mm) + 3;
            if (!drawing.sees(part.centre, reach_mm)) continue;
            if (specks && std::max(part.width_mm, part.height_mm) * m_scale < BoardDrawing::speck_px) {
                const bool down = std::any_of(part.pads.begin(), part.pads.end(),
                                              [&](const Pad& pad) { return shown(pad.net); });
                drawing.addSpeck(part, near, near && down);
                continue;
            }
            const bool gone = a.state.lifted.contains(part.designator);
            for (const Pad& pad : part.pads)
                drawing.pad(pad, shown(pad.net), !near);
            PartStyle style;
            style.faded = !near || gone || cleared.contains(part.designator);
            style.cleared = near && cleared.contains(part.designator);
            style.heavy = near && onStretch.contains(p);
            drawing.part(part, style);
        }
    drawing.drawSpecks();
}

/// Words beside a ring: above, below or at a side, where they cover least of the parts and of other words.
QRectF PlateView::placeBeside(const QRectF& ring, QSizeF words, const std::vector<QRectF>& taken) const {
    constexpr double gap = 3, edge = 4, takenWeighs = 20;
    const QPointF at = ring.center();
    const double up = (ring.height() + words.height()) / 2 + gap,
                 aside = (ring.width() + words.width()) / 2 + gap;
    // Only what is near can be covered: large boards have thousands of parts, and this is done at each paint.
    const double reach = aside + words.width();
    std::vector<QRectF> near;
    for (const Part& part : board()->parts) {
        if (part.side != m_side || part.width_mm <= 0) continue;
        const double w = part.width_mm * m_scale, h = part.height_mm * m_scale;
        const QPointF centre = toView(part.centre);
        if (std::fabs(centre.x() - at.x()) > reach + w / 2 || std::fabs(centre.y() - at.y()) > reach + h / 2)
            continue;
        near.emplace_back(centre - QPointF(w / 2, h / 2), QSizeF(w, h));
    }
    QRectF best;
    double least = 0;
    for (const QPointF by : {QPointF(0, -up), QPointF(0, up), QPointF(aside, 0), QPointF(-aside, 0)}) {
        QRectF room(QPointF(), words);
        room.moveCenter(at + by);
        room.moveLeft(std::clamp(room.left(), edge, std::max(edge, width() - room.width() - edge)));
        const auto covered = [&room](const QRectF& other) {
            const QRectF both = room.intersected(other);
            return both.width() * both.height();
        };
        double cost = 0;
        for (const QRectF& part : near)
            cost += covered(part);
        for (const QRectF& other : taken)
            cost += takenWeighs * covered(other);
        if (best.isEmpty() || cost < least) {
            best = room;
            least = cost;
        }
    }
    return best;
}

/// A circle round a square part; round a long one it is as long as the part, and no wider than it must be.
QRectF PlateView::ringRound(const Part& part) const {
    // Half of sqrt(2) - 1: a circle through the corners of a square.
    constexpr double margin = 9, overCorners = 0.21;
    QPolygonF body;
    for (const BoardPoint& corner : cornersOf(part))
        body << toView(corner);
    const QRectF box = body.boundingRect();
    const double wide = margin + overCorners * std::min(box.width(), box.height());
    return box.adjusted(-wide, -wide, wide, wide);
}

std::vector<PlateView::Accused> PlateView::accused() const {
    constexpr std::size_t most = 5, mostVictims = 3;
    constexpr double worthARing = 0.03, worthCorners = 0.1;
    const Belief& belief = m_assessment->belief;
    std::vector<Accused> all, victims;
    for (const Suspect& s : m_assessment->suspects)
        if (s.part >= 0 && !s.cleared && s.odds >= worthARing && all.size() < most)
            all.push_back({s.part, s.odds, s.off, belief.isVictim(s.part)});
    // What another part took with it is often on no rail that is down.
    for (PartIndex p = 0; p < static_cast<PartIndex>(belief.victim.size()); ++p) {
        const double odds = belief.victim[static_cast<std::size_t>(p)];
        const bool known =
            std::any_of(all.begin(), all.end(), [p](const Accused& other) { return other.part == p; });
        const std::string& name = board()->parts[p].designator;
        if (odds >= worthCorners && belief.isVictim(p) && !known &&
            !m_assessment->state.replaced.contains(name))
            victims.push_back({p, odds, m_assessment->state.lifted.contains(name), true});
    }
    std::stable_sort(victims.begin(), victims.end(),
                     [](const Accused& a, const Accused& b) { return a.odds > b.odds; });
    victims.resize(std::min(victims.size(), mostVictims));
    all.insert(all.end(), victims.begin(), victims.end());
    return all;
}

void PlateView::paintSuspects(QPainter& painter) {
    const Look& look = Look::current();
    // Where the next touch is marked nothing else is written.
    std::vector<QRectF> taken;
    if (const auto pad = m_touch.empty() ? std::nullopt : board()->findPad(m_touch))
        taken.emplace_back(toView(board()->pad(*pad).at) - QPointF(40, 62), QSizeF(80, 62));
    for (const Accused& s : accused()) {
        const Part& part = board()->parts[s.part];
        const QRectF ring = ringRound(part);
        // A cause is round, a victim has corners.
        const double round = s.victim ? 0 : std::min(ring.width(), ring.height()) / 2;
        QPen pen(look.ink, 1 + 6 * s.odds);
        pen.setJoinStyle(Qt::MiterJoin);
        if (part.side != m_side) pen.setStyle(Qt::DashLine);
        painter.setPen(pen);
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(ring, round, round);
        QString words =
            QString("%1  %2 %")
                .arg(text(part.designator),
                     s.odds > 0.995 ? QStringLiteral("> 99") : QString::number(std::lround(100 * s.odds)));
        if (s.victim) words += " " + tr("victim");
        if (s.off) words += " " + tr("(off)");
        if (part.side != m_side)
            words += " " + tr("(%1)").arg(part.side == Side::Top ? tr("top side") : tr("bottom side"));
        painter.setFont(s.odds > 0.3 ? Look::bold(Look::text()) : Look::small());
        const QSizeF size = painter.fontMetrics().boundingRect(words).adjusted(-4, -2, 4, 2).size();
        const QRectF room = placeBeside(ring, size, taken);
        taken.push_back(room);
        painter.fillRect(room, look.plate);
        painter.setPen(look.ink);
        painter.drawText(room, Qt::AlignCenter, words);
    }
}

void PlateView::paintTouch(QPainter& painter) {
    const Look& look = Look::current();
    const auto mark = [&](BoardPoint at, const QString& words) {
        const QPointF p = toView(at);
        // A plumb bob: its tip is the place.
        QPolygonF bob;
        bob << p << p + QPointF(-6, -14) << p + QPointF(0, -19) << p + QPointF(6, -14);
        painter.setPen(QPen(look.ink, 1.5));
        painter.setBrush(look.ink);
        painter.drawPolygon(bob);
        painter.drawLine(p + QPointF(0, -19), p + QPointF(0, -34));
        painter.setFont(Look::bold(Look::text()));
        QRectF room = painter.fontMetrics().boundingRect(words).adjusted(-5, -2, 5, 2);
        room.moveCenter(p + QPointF(0, -34 - room.height() / 2));
        painter.fillRect(room, look.ink);
        painter.setPen(look.plate);
        painter.drawText(room, Qt::AlignCenter, words);
    };
    if (!m_touch.empty())
        if (const auto pad = board()->findPad(m_touch)) {
            const Part& part = board()->parts[pad->part];
            const QString where =
                part.side == m_side || board()->pad(*pad).through ? QString() : tr(", other side");
            mark(board()->pad(*pad).at, text(board()->placeOf(*pad)) + where);
        }
    if (const PartIndex p = board()->findPart(m_selected); p >= 0) {
        const Part& part = board()->parts[p];
        const QPointF at = toView(part.centre);
        const double r = 6 + 0.6 * std::max(part.width_mm, part.height_mm) * m_scale;
        painter.setPen(QPen(look.ink, 2));
        for (const auto& [sx, sy] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
            const QPointF corner = at + QPointF(sx * r, sy * r);
            painter.drawLine(corner, corner - QPointF(sx * 6, 0));
            painter.drawLine(corner, corner - QPointF(0, sy * 6));
        }
    }
}

void PlateView::paintMargin(QPainter& painter) {
    const Look& look = Look::current();
    painter.setFont(Look::bold(Look::text()));
    painter.setPen(look.ink);
    painter.drawText(QPointF(12, 22),
                     m_side == Side::Top ? tr("Top side") : tr("Bottom side, seen from below"));
    painter.setFont(Look::small());
    // A scale in round millimetres.
    double mm = 1;
    for (const double step : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0})
        if (step * m_scale <= 130) mm = step;
    const double y = height() - 12, x = 14, w = mm * m_scale;
    painter.setPen(QPen(look.ink, 1));
    painter.drawLine(QPointF(x, y), QPointF(x + w, y));
    painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4));
    painter.drawLine(QPointF(x + w, y - 4), QPointF(x + w, y + 4));
    painter.drawText(QPointF(x + w + 6, y + 4), QString("%1 mm").arg(mm));
    if (m_heat.liesOn(m_side)) m_heat.paintScale(painter, rect());
}

PlateView::PlateOf PlateView::plateWanted() const {
    return {transform(), size(), m_shownNet, Look::current().night};
}

/// Draws the board anew.
void PlateView::engrave() {
    const PlateOf wanted = plateWanted();
    m_stale = false;
    m_plateOf = wanted;
    m_plate = QPixmap(size() * devicePixelRatioF());
    m_plate.setDevicePixelRatio(devicePixelRatioF());
    m_plate.fill(Look::current().paper);
    QPainter painter(&m_plate);
    painter.setRenderHint(QPainter::Antialiasing);
    QElapsedTimer clock;
    clock.start();
    paintBoard(painter);
    m_engraved_ms = static_cast<double>(clock.nsecsElapsed()) * 1e-6;
    m_plateSide = m_side;
}

/// While a large board is pushed about, its last engraving is moved and scaled; at rest it is engraved anew.
void PlateView::paintPlate(QPainter& painter) {
    const PlateOf wanted = plateWanted();
    constexpr double quick_ms = 10;
    constexpr int rest_ms = 90;
    const bool onlyMoved = !m_plate.isNull() && m_plateOf.size == wanted.size &&
                           m_plateOf.shownNet == wanted.shownNet && m_plateOf.night == wanted.night &&
                           m_plateSide == m_side;
    if (m_plateOf != wanted && onlyMoved && m_engraved_ms > quick_ms) {
        painter.fillRect(rect(), Look::current().paper);
        painter.save();
        painter.setTransform(m_plateOf.transform.inverted() * wanted.transform, true);
        painter.drawPixmap(0, 0, m_plate);
        painter.restore();
        m_rest.start(rest_ms);
        return;
    }
    if (m_plate.isNull() || m_plateOf != wanted) engrave();
    painter.drawPixmap(0, 0, m_plate);
}

void PlateView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!board()) return painter.fillRect(rect(), Look::current().paper);
    paintPlate(painter);
    m_copper.paint(painter, transform(), m_side, rect());
    if (m_heat.liesOn(m_side)) m_heat.paint(painter, transform(), rect());
    paintSuspects(painter);
    paintTouch(painter);
    paintMargin(painter);
    if (hasFocus()) {
        painter.setPen(QPen(Look::current().faint, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

void PlateView::resizeEvent(QResizeEvent*) {
    if (m_fitted) fit();
}

void PlateView::wheelEvent(QWheelEvent* event) {
    zoomBy(std::pow(1.0015, event->angleDelta().y()), event->position());
}

void PlateView::mousePressEvent(QMouseEvent* event) {
    m_pressed = m_dragFrom = event->position();
    m_dragging = false;
}

void PlateView::mouseMoveEvent(QMouseEvent* event) {
    constexpr double slack = 5;
    if (!m_dragging && (event->position() - m_pressed).manhattanLength() < slack) return;
    m_dragging = true;
    m_fitted = false;
    const BoardPoint a = toBoard(m_dragFrom), b = toBoard(event->position());
    m_middle += QPointF(a.x_mm - b.x_mm, a.y_mm - b.y_mm);
    m_dragFrom = event->position();
    update();
}

PartIndex PlateView::partAt(QPointF p) const {
    const BoardPoint at = toBoard(p);
    PartIndex best = -1;
    double smallest = 1e9;
    for (PartIndex i = 0; i < static_cast<PartIndex>(board()->parts.size()); ++i) {
        const Part& part = board()->parts[i];
        if (part.side != m_side) continue;
        const bool turned = std::fabs(std::fmod(std::fabs(part.rotation_deg), 180.0) - 90) < 45;
        const double w = (turned ? part.height_mm : part.width_mm) / 2 + 0.3,
                     h = (turned ? part.width_mm : part.height_mm) / 2 + 0.3;
        const bool inside =
            std::fabs(at.x_mm - part.centre.x_mm) < w && std::fabs(at.y_mm - part.centre.y_mm) < h;
        if (inside && w * h < smallest) {
            smallest = w * h;
            best = i;
        }
    }
    return best;
}

void PlateView::mouseReleaseEvent(QMouseEvent* event) {
    if (m_dragging || !board()) return;
    const PartIndex p = partAt(event->position());
    if (p < 0) {
        select("");
        return emit partChosen({});
    }
    const Part& part = board()->parts[p];
    select(part.designator);
    emit partChosen(text(part.designator));
    const BoardPoint at = toBoard(event->position());
    for (const Pad& pad : part.pads) {
        const double reach = std::max({pad.width_mm, pad.height_mm, 0.5}) / 2 + 0.1;
        if (distance_mm(pad.at, at) < reach) return emit placeChosen(text(part.designator + "." + pad.pin));
    }
}

void PlateView::keyPressEvent(QKeyEvent* event) {
    const double step = 40 / m_scale, mirror = m_side == Side::Top ? 1 : -1;
    const QPointF centre(width() / 2.0, height() / 2.0);
    switch (event->key()) {
    case Qt::Key_Left:
        m_middle.rx() -= mirror * step;
        break;
    case Qt::Key_Right:
        m_middle.rx() += mirror * step;
        break;
    case Qt::Key_Up:
        m_middle.ry() += step;
        break;
    case Qt::Key_Down:
        m_middle.ry() -= step;
        break;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return zoomBy(1.25, centre);
    case Qt::Key_Minus:
        return zoomBy(0.8, centre);
    case Qt::Key_0:
        return fit();
    case Qt::Key_F:
        return turnOver();
    default:
        return QWidget::keyPressEvent(event);
    }
    m_fitted = false;
    update();
}

bool PlateView::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip && board()) {
        auto* help = static_cast<QHelpEvent*>(event);
        const PartIndex p = partAt(help->pos());
        if (p >= 0) {
            const Part& part = board()->parts[p];
            QString words = text(part.designator + ": " + std::string(wordOf(part.partClass)) + "\n" +
                                 part.value + "  " + part.package);
            for (const Pad& pad : part.pads)
                if (pad.net >= 0 && part.pads.size() <= 4)
                    words += "\n" + text(pad.pin + "  " + board()->nets[pad.net].name);
            QToolTip::showText(help->globalPos(), words, this);
        } else {
            QToolTip::hideText();
        }
        return true;
    }
    return QWidget::event(event);
}

} // namespace ustor
