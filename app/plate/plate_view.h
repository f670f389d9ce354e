#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "app/plate/copper_overlay.h"
#include "app/plate/heat_overlay.h"
#include "diagnosis/assess.h"

#include <QImage>
#include <QPixmap>
#include <QTimer>
#include <QTransform>
#include <map>

namespace ustor {

/// The board, always in the middle: pan with the mouse or arrows, zoom with the wheel or + and -, F turns it
/// over. Everything is shown on it: the stretch that is down, rings of odds, where to touch next, heat with
/// its ellipse.
class PlateView : public QWidget {
    Q_OBJECT
  public:
    explicit PlateView(QWidget* parent = nullptr);

    void show(const Assessment* assessment); ///< not owned; nullptr for none
    void setSide(Side side);
    Side side() const { return m_side; }
    void turnOver() { setSide(otherSide(m_side)); }
    void setTouch(const std::string& place); ///< where the next move wants a probe; empty for nowhere
    void setHeat(const LiveHeat& heat, const std::optional<Registration>& registration);
    void clearHeat();
    /// Potential and current on the copper, a picture for each layer top to bottom; empty clears it.
    void setCopper(std::vector<CopperPicture> pictures, const QString& words);
    void select(const std::string& part);
    std::string selected() const { return m_selected; }
    /// Selects and brings into view a part or a net by name; false when there is none.
    bool find(const QString& name);
    void fit();
    void zoomBy(double factor, QPointF around);
    QPointF toView(BoardPoint p) const;
    BoardPoint toBoard(QPointF p) const;

  signals:
    void partChosen(const QString& designator);
    void netChosen(const QString& net);
    void placeChosen(const QString& place); ///< a pad was clicked: "C12.1"
    void sideChanged(ustor::Side side);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

  private:
    QTransform transform() const;
    const Board* board() const { return m_assessment ? &m_assessment->state.board : nullptr; }
    void paintBoard(QPainter& painter);
    void engrave();
    void paintPlate(QPainter& painter);
    void paintPhoto(QPainter& painter);
    /// Who is marked on the board.
    struct Accused {
        PartIndex part;
        double odds;
        bool off, victim;
    };
    std::vector<Accused> accused() const;
    void paintSuspects(QPainter& painter);
    QRectF ringRound(const Part& part) const;
    QRectF placeBeside(const QRectF& ring, QSizeF words, const std::vector<QRectF>& taken) const;
    void paintTouch(QPainter& painter);
    void paintMargin(QPainter& painter);
    PartIndex partAt(QPointF p) const;

    const Assessment* m_assessment = nullptr;
    Side m_side = Side::Top;
    double m_scale = 8; ///< pixels a millimetre
    QPointF m_middle;   ///< board place in the middle of the widget, mm
    bool m_fitted = true;
    std::string m_touch, m_selected;
    NetIndex m_shownNet = -1;
    QPixmap m_plate; ///< board as drawn for m_plateOf: heat and rings change ten times a second, it does not
    struct PlateOf {
        QTransform transform;
        QSize size;
        NetIndex shownNet = -1;
        bool night = false;
        bool operator==(const PlateOf&) const = default;
    } m_plateOf;
    Side m_plateSide = Side::Top;
    double m_engraved_ms = 0; ///< what the last engraving took
    QTimer m_rest;
    bool m_stale = false; ///< the plate shows an older assessment
    PlateOf plateWanted() const;
    HeatOverlay m_heat;
    CopperOverlay m_copper;
    struct Photo {
        QImage image;
        QTransform toBoard; ///< photo pixels to board millimetres
    };
    std::map<Side, Photo> m_photos;
    void readPhotos();
    QPointF m_pressed, m_dragFrom;
    bool m_dragging = false;
};

} // namespace ustor
