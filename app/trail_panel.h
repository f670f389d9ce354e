#pragma once

#include <QListWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/case_session.h"

class QLabel;
class QPushButton;

namespace ustor {

/// The facts of the case as a thread with knots, in the order they came. One can be chosen: what it did to
/// the odds is shown, and it can be struck out or brought back.
class TrailPanel : public QWidget {
    Q_OBJECT
  public:
    explicit TrailPanel(QWidget* parent = nullptr);
    void show(CaseSession* session);

  signals:
    void strikeWanted(long id);

  private:
    void fill();
    void fillRow(int row, const Fact& fact);
    void explain();

    CaseSession* m_session = nullptr;
    QListWidget* m_list;
    QLabel* m_effect;
    QPushButton* m_strike;
};

} // namespace ustor
