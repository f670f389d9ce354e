#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/case_session.h"

class QLabel;
class QListWidget;
class QPushButton;

namespace ustor {

/// The tour: every part on the rail that is down, in a short way over both sides, each ticked with what the
/// eye found. Keys 0 to 7 tick; a photo can be kept with it; foam and shields are asked for.
class TourPanel : public QWidget {
    Q_OBJECT
  public:
    explicit TourPanel(QWidget* parent = nullptr);
    void open(CaseSession* session);
    void begin();
    std::string part() const; ///< the current one; empty at the end
    /// Notes what was seen and goes on.
    void tick(Damage damage);
    void takePhoto(const QString& file); ///< copies it into the case; it goes with the next tick

  signals:
    void partWanted(const QString& designator);
    void noted(const ustor::FactBody& body);
    void said(const QString& words);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void show();
    void goTo(std::size_t row);

    CaseSession* m_session = nullptr;
    std::vector<std::string> m_way;
    std::size_t m_current = 0;
    std::string m_photo;
    QLabel *m_name, *m_about;
    QPushButton *m_foam, *m_shields;
    QListWidget* m_list;
};

} // namespace ustor
