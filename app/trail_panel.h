#pragma once

#include <QListWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/background.h"
#include "session/case_session.h"

class QLabel;
class QPushButton;

namespace ustor {

/// The facts of the case as a thread with knots, in the order they came; of a long trail the newest, and the
/// earlier ones when they are asked for. One can be chosen: what it did to
/// the odds is shown, and it can be struck out or brought back.
class TrailPanel : public QWidget {
    Q_OBJECT
  public:
    explicit TrailPanel(QWidget* parent = nullptr);
    void show(CaseSession* session);
    /// What the chosen fact did is still worked out.
    bool explains() const { return m_asked != m_answered; }

  signals:
    void strikeWanted(long id);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void fill();
    void append();
    void trim();
    void showEarlier();
    void markStruck();
    QListWidgetItem* rowFor(const Fact& fact) const;
    void explain();

    CaseSession* m_session = nullptr;
    QListWidget* m_list;
    QLabel* m_effect;
    QPushButton* m_strike;
    std::size_t m_taken = 0;   ///< facts that have a row, had one, or are strikes
    std::size_t m_earlier = 0; ///< the first of them stand above the rows, behind one row that brings them
    std::size_t m_most = 0;    ///< rows before the first of them go
    int m_asked = 0, m_answered = 0; ///< explanations
    Background m_background;
};

} // namespace ustor
