#pragma once

#include <QWidget>

class QLabel;
class QPushButton;
class QTimer;

namespace ustor {

/// In place of everything else while an output may be on that nobody here can switch off: what to do, in
/// words that are read from across the room, and a sound.
class AlarmPage : public QWidget {
    Q_OBJECT
  public:
    explicit AlarmPage(QWidget* parent = nullptr);
    /// `detail`: which supply, and what was read of it. `mayBeSettled`: nothing is read of it any more, so
    /// that a person may say that its leads are off.
    void tell(const QString& detail, bool mayBeSettled);
    QPushButton* leadsAreOff() const { return m_leads; }

  signals:
    void leadsPulled();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    QLabel *m_words, *m_detail;
    QPushButton* m_leads;
    QTimer* m_sound;
};

} // namespace ustor
