#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/survey_work.h"

#include <memory>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QSpinBox;

namespace ustor {

/// Guided probing: where to touch, in large; the reading is taken by itself once it stands still, or typed;
/// what it means, and by which rule; the walk with what was read so far.
class SurveyPanel : public QWidget {
    Q_OBJECT
  public:
    explicit SurveyPanel(QWidget* parent = nullptr);
    void open(CaseSession* session);   ///< nullptr: nothing is open
    void begin();                      ///< a walk from its start, with the settings shown
    void feed(const Reading& reading); ///< of a wired meter
    void lifted();                     ///< the probes were moved (on a simulated bench)
    bool reads() const;                ///< a wired meter's steady readings are taken
    const SurveyWork* work() const { return m_work.get(); }
    MeterMode mode() const;
    std::string place() const; ///< of the current stop; empty at the end

  public slots:
    void skip();
    void back();
    void typeValue();

  signals:
    void placeWanted(const QString& place); ///< touch here; empty at the end
    void said(const QString& words);
    void knownGoodInWanted();  ///< take in what good boards read
    void knownGoodOutWanted(); ///< give it out

  private:
    void layOut();
    void showStop();
    void fillList();
    void take();
    void tell(const SurveyWork::Result& result);
    void tellReads();

    CaseSession* m_session = nullptr;
    std::unique_ptr<SurveyWork> m_work;
    QLabel *m_where, *m_about, *m_reading, *m_ruling;
    QLineEdit* m_value;
    QComboBox* m_mode;
    QCheckBox *m_reversed, *m_tones;
    QSpinBox *m_count, *m_percent;
    QListWidget* m_list;
    QPushButton* m_read;
};

} // namespace ustor
