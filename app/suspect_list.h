#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/assess.h"

namespace ustor {

/// Suspects with rings of odds; the chosen one shows its evidence as bars that add up: to the right for it,
/// to the left against it, each measured against the average suspect.
class SuspectList : public QWidget {
    Q_OBJECT
  public:
    explicit SuspectList(QWidget* parent = nullptr);
    void show(const Assessment* assessment);
    void choose(const std::string& part);
    QSize sizeHint() const override;

  signals:
    void chosen(const QString& designator);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    struct Row {
        const Suspect* suspect;
        int top, height;
    };
    std::vector<Row> rows() const;
    void paintRow(QPainter& painter, const Row& row);
    QString nameOf(const Suspect& suspect) const;

    const Assessment* m_assessment = nullptr;
    QString m_chosen;
};

} // namespace ustor
