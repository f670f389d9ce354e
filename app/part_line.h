#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/assess.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace ustor {

/// One line about the part or the net that is marked on the board: what it was taken for, which a person can
/// correct, and what was done with it. Every answer leaves as a fact.
class PartLine : public QWidget {
    Q_OBJECT
  public:
    explicit PartLine(QWidget* parent = nullptr);
    void show(const Assessment* assessment); ///< not owned; nullptr for none
    void showPart(const QString& designator);
    void showPlace(const QString& place); ///< a pad, "C12.1": its part and its own net
    void showNet(const QString& net);

  signals:
    void noted(const ustor::FactBody& body);
    void said(const QString& words); ///< what is wrong with what was typed

  private:
    QPushButton* word(const QString& text, const char* name, FactBody (PartLine::*fact)() const);
    void fill();
    void noteVolts();
    const Board* board() const { return m_assessment ? &m_assessment->state.board : nullptr; }
    FactBody chooseRail() const;
    FactBody lift() const;
    FactBody putBack() const;
    FactBody fitNew() const;
    FactBody aloneShorted() const;
    FactBody aloneFine() const;

    const Assessment* m_assessment = nullptr;
    std::string m_part;
    NetIndex m_net = -1;
    QLabel *m_name, *m_netName;
    QPushButton* m_class; ///< opens the menu of kinds
    QLineEdit* m_volts;
    QPushButton *m_hunt, *m_lift, *m_putBack, *m_fitNew, *m_aloneShorted, *m_aloneFine;
};

} // namespace ustor
