#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/case_session.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ustor {

/// Millivolts along the copper: what current flows between which places, the pad to read next, and what the
/// readings say so far. Beside it near or far, from the first plug-in.
class AlongPanel : public QWidget {
    Q_OBJECT
  public:
    explicit AlongPanel(QWidget* parent = nullptr);
    void open(CaseSession* session);
    std::string place() const; ///< where the red lead should go now
    void setPlace(const QString& place);
    void take(double volts, double digit);
    bool drawsCopper() const;
    std::optional<double> amps() const;
    std::string plus() const;

  signals:
    void placeWanted(const QString& place);
    void noted(const ustor::FactBody& body);
    void drawWanted();

  private:
    void layOut();
    void show();
    void suggestPlaces();
    void takeTyped();
    void showNearFar();

    CaseSession* m_session = nullptr;
    QLabel *m_where, *m_about, *m_near;
    QLineEdit *m_amps, *m_plus, *m_minus, *m_digit, *m_place, *m_value;
    QComboBox* m_leads;
    QPushButton* m_draw;
};

} // namespace ustor
