#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "thermal/recording.h"

#include <QPolygonF>
#include <deque>

namespace ustor {

/// Volts, amps, power and the warmest spot against time, always running while the supply is there.
class Strip : public QWidget {
    Q_OBJECT
  public:
    explicit Strip(QWidget* parent = nullptr);
    void add(const SupplySample& sample);
    void setWarmest(double kelvin) { m_warmest_k = kelvin; }
    void lose();
    QSize sizeHint() const override { return {600, 78}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Point {
        double time_s, value[4];
    };
    QPolygonF trace(const QRectF& plot, int which, double most) const;

    std::deque<Point> m_points;
    double m_warmest_k = 0;
    bool m_output = false, m_here = false;
    int m_skip = 0;
};

} // namespace ustor
