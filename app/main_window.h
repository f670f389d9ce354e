#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "app/output_off.h"
#include "board/board_files.h"
#include "session/background.h"
#include "session/practice/standin_process.h"
#include "store/case_archive.h"
#include "store/case_folder.h"
#include "store/casebook.h"

#include <QTimer>

class QLabel;
class QLineEdit;
class QPushButton;

namespace ustor {

class AlarmPage;
class AlignPage;
class CasesPage;
class CaseSession;
class OutputOff;
class Pages;
class Settling;
class SketchPage;
class Workbench;

/// The one window: a line of words on top, the page of cases or one open case below, output off at the foot
/// of both.
class MainWindow : public QWidget {
    Q_OBJECT
  public:
    explicit MainWindow(std::unique_ptr<Casebook> book, QWidget* parent = nullptr);
    ~MainWindow() override;

    void openDemo(double speed = 1);
    void openFolder(const QString& folder);
    void openNew(const QStringList& boardFiles, const QString& title);
    /// Unpacks a `*.ustor-case` into the casebook and opens it.
    void importFile(const QString& file);
    /// Packs the open case into one file.
    void exportTo(const QString& file);
    /// Readings of good boards of the open case's model, as CSV, into the casebook or out of it.
    void takeInKnownGood(const QString& file);
    void giveOutKnownGood(const QString& file);
    void showCases();
    /// A board from photos: the sketch of that name in the casebook, or a new one.
    void openSketch(const QString& name);
    SketchPage& sketch() const { return *m_sketch; }
    AlignPage& align() const { return *m_align; }
    Workbench& workbench() const { return *m_workbench; }
    StandInProcess* standIn() const { return m_standIn.get(); }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void closeEvent(QCloseEvent* event) override;

  private:
    void layOut();
    void addShortcuts();
    void openCase(CaseFolder folder);
    void openPlaced();
    bool askWhere(const UnplacedFile& file, const std::vector<UnplacedFile>& all);
    void noteInBook();
    void noteSoon();
    void askForGood();
    void tellOutput();
    void switchOff();
    void noteLeadsPulled();
    void keepWhatIsGood(const CaseSession& session);
    void chooseExport();
    Progress progressOf(const QString& what);
    void chooseKnownGood(bool in);

    std::unique_ptr<Casebook> m_book;
    std::unique_ptr<StandInProcess> m_standIn;
    CasesPage* m_cases;
    Workbench* m_workbench;
    SketchPage* m_sketch;
    AlignPage* m_align;
    struct Incoming {
        std::vector<std::filesystem::path> files;
        QString title;
        FileShifts shifts; ///< placed by hand so far
    } m_incoming;          ///< the board that is being opened
    Pages* m_pages;
    Pages* m_front; ///< the pages, or the alarm in their place
    AlarmPage* m_alarm;
    Settling* m_settling;
    OutputOff* m_off;
    QLabel *m_title, *m_words;
    QLineEdit* m_find;
    QList<QWidget*> m_caseWords;
    OutputShown m_bench; ///< of the open case
    QTimer m_noteSoon;
    std::string m_goodOf; ///< how the open case stood when what it tells of good boards was last kept
    Background m_background;
};

} // namespace ustor
