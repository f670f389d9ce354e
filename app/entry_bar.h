#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/fact/entry.h"

class QComboBox;
class QLabel;
class QLineEdit;

namespace ustor {

/// One line to type what was measured or seen: a place, a kind, a value ("4m", "63", "OL", "1k2").
class EntryBar : public QWidget {
    Q_OBJECT
  public:
    explicit EntryBar(QWidget* parent = nullptr);
    /// The board that its places are on; it must outlive the bar, or null.
    void setBoard(const Board* board) { m_board = board; }
    void setPlace(const QString& place);
    QString place() const;
    MeterMode mode() const;
    void setKind(const char* kind); ///< a word of `entryKinds`
    void startTyping();
    /// With what the next entry is about.
    void startTyping(const char* kind);
    void say(const QString& words); ///< beside the line: what was taken, or what is wrong

  signals:
    void noted(const ustor::FactBody& body);

  private:
    void take();
    const EntryKind& kind() const;
    Result<FactBody> parse() const;

    const Board* m_board = nullptr;
    QLineEdit *m_place, *m_value;
    QComboBox* m_kind;
    QLabel* m_said;
};

} // namespace ustor
