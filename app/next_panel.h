#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/assess.h"

#include <array>
#include <functional>
#include <optional>

class QLabel;
class QPushButton;

namespace ustor {

/// The best next move in one sentence with its reason, minutes and risk; others below it. The first time a
/// dangerous kind of move comes up, its caution has to be met before it can be done.
class NextPanel : public QWidget {
    Q_OBJECT
  public:
    explicit NextPanel(QWidget* parent = nullptr);
    void show(const Assessment* assessment);
    /// Facts came whose assessment is still on its way: until `show` nothing can be done from here.
    void await();
    /// Something else is going on: words and a button that ends it ("Stop").
    void showBusy(const QString& what, const QString& detail);
    /// Something has to be done by hand first: words, and a button that says that it is done.
    void ask(const QString& what, const QString& detail, const QString& verb, std::function<void()> then);
    void endBusy();
    const NextMove* shown() const;
    /// A caution stands before the move: the button meets it first.
    bool cautionShown() const { return m_cautionShown && !m_busy; }
    QPushButton* button() const { return m_do; }

  signals:
    void wanted(const ustor::NextMove& move);
    /// A caution was met before the first move of its kind: "measure", "inject" or "lift".
    void cautionMet(const QString& about);
    void stopWanted();

  private:
    void fill();
    void fillOthers();
    static void offer(QPushButton* other, bool on);
    void fitHeights();
    void resizeEvent(QResizeEvent* event) override;
    void press();
    void nextWay();
    void fillWay();
    static QString verb(const NextMove& move);
    static QStringList outcomesOf(const NextMove& move);
    QString learnt() const;
    static QString cautionFor(MoveKind kind);
    void stayAt(const NextMove& move);

    const Assessment* m_assessment = nullptr;
    std::size_t m_index = 0;
    bool m_busy = false, m_cautionShown = false, m_awaits = false;
    std::function<void()> m_then;     ///< what the button of `ask` does
    School m_school = School::Ladder; ///< of the shown injection
    std::optional<NextMove> m_stays;  ///< chosen, and its caution has just been met
    QLabel *m_sentence, *m_reason, *m_risk, *m_cost, *m_learnt;
    QPushButton *m_do, *m_way;
    static constexpr std::size_t mostOthers = 3;
    std::array<QPushButton*, mostOthers> m_others;
    std::array<std::size_t, mostOthers> m_otherMoves{}; ///< which move each of them stands for
};

} // namespace ustor
