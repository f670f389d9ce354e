#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/assess.h"

namespace ustor {

/// Suspects with rings of odds; the chosen one shows its evidence as bars that add up: to the right for it,
/// to the left against it, each measured against the average suspect. Where no rail is hunted: what may be
/// wrong, in words. What is hardly likely is one line.
class SuspectList : public QWidget {
    Q_OBJECT
  public:
    explicit SuspectList(QWidget* parent = nullptr);
    void show(const Assessment* assessment);
    void choose(const std::string& part);
    QSize sizeHint() const override;

  signals:
    void chosen(const QString& designator);
    void opened(const QRect& row); ///< with its evidence, in the list's own pixels

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    struct Row {
        QString name, kind; ///< the second faint beside the first
        double odds = 0;
        bool cleared = false, part = false, victim = false;
        const std::vector<Weight>* evidence = nullptr; ///< null: the line of all the others
        int top = 0, height = 0;
    };
    std::vector<Row> rows() const;
    void addSuspects(std::vector<Row>& list) const;
    void addHypotheses(std::vector<Row>& list) const;
    void open(const Row& row);
    void paintRow(QPainter& painter, const Row& row);
    void paintEvidence(QPainter& painter, const Row& row) const;

    const Assessment* m_assessment = nullptr;
    QString m_chosen;
};

} // namespace ustor
