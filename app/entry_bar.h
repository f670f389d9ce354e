#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/fact.h"

class QComboBox;
class QLabel;
class QLineEdit;

namespace ustor {

/// One line to type what was measured or seen: a place, a kind, a value ("4m", "63", "OL", "1k2").
class EntryBar : public QWidget {
    Q_OBJECT
  public:
    explicit EntryBar(QWidget* parent = nullptr);
    void setPlace(const QString& place);
    QString place() const;
    MeterMode mode() const;
    /// What the next entry is about.
    enum Kind { OhmsKind, DiodeKind, BeepKind, VoltsKind, SeenKind, SourceKind, ComplaintKind, NoteKind };
    void startTyping();
    void startTyping(Kind kind);
    void say(const QString& words); ///< beside the line: what was taken, or what is wrong

  signals:
    void noted(const ustor::FactBody& body);

  private:
    void take();
    std::optional<FactBody> parse(QString& wrong) const;

    QLineEdit *m_place, *m_value;
    QComboBox* m_kind;
    QLabel* m_said;
};

} // namespace ustor
