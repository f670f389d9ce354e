#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include <vector>

namespace ustor {

/// A small line over time or place, with its ends written at the axes.
class CourseChart : public QWidget {
    Q_OBJECT
  public:
    explicit CourseChart(const QString& title, QWidget* parent = nullptr);
    /// `shaded`: where the power was on, drawn as a band; empty or as long as `x`.
    void show(std::vector<double> x, std::vector<double> y, const QString& xUnit, const QString& yUnit,
              std::vector<bool> shaded = {});
    void clear(const QString& why);
    const std::vector<double>& values() const { return m_y; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QString m_title, m_xUnit, m_yUnit, m_why;
    std::vector<double> m_x, m_y;
    std::vector<bool> m_shaded;
};

} // namespace ustor
