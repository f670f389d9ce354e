#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/assess.h"
#include "rail/power_path.h"

namespace ustor {

/// The way of the power as a drawing of its own: rails as plates from the connector on the left to the loads
/// on the right, each healthy, down or unknown; what leads from one to the next on the line between them. A
/// stretch that is down is drawn heavier, a freed one fades and gets a tick. Arrows move, Enter measures
/// there.
class PathView : public QWidget {
    Q_OBJECT
  public:
    explicit PathView(QWidget* parent = nullptr);
    void show(const Assessment* assessment); ///< not owned; nullptr for none
    const PowerPath& path() const;
    /// How a place stands: the newest ruling on any net of its stretch.
    RailState stateOf(int place) const;
    bool isFreed(int place) const;

  signals:
    void netChosen(const QString& net);
    void measureWanted(const QString& place);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QRectF plateOf(int place) const;
    void paintStep(QPainter& painter, const PathStep& step) const;
    void paintPlace(QPainter& painter, int place) const;
    QString wordsOf(const PathStep& step) const;
    void choose(int place);

    const Assessment* m_assessment = nullptr;
    // Made when somebody looks: a fact on the board alone costs nothing here.
    mutable PowerPath m_path;
    mutable int m_columns = 1, m_rows = 1;
    mutable bool m_stale = false;
    int m_chosen = -1;
};

} // namespace ustor
