#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "bench/instrument_address.h"
#include "session/background.h"
#include "store/casebook.h"

#include <QElapsedTimer>
#include <atomic>

class QLabel;
class QLineEdit;
class QListView;

namespace ustor {

class CaseList;

/// The casebook: cases listed, searched, opened again; a new one from board files; the demo; where the bench
/// is.
class CasesPage : public QWidget {
    Q_OBJECT
  public:
    explicit CasesPage(Casebook& book, QWidget* parent = nullptr);
    ~CasesPage() override;
    void refill();
    /// Case folders are still gone over in the background.
    bool reads() const { return m_reads; }
    void say(const QString& words);
    BenchAddress typedBench(QString& wrong) const;

  signals:
    void openWanted(const QString& folder);
    void newWanted(const QStringList& boardFiles, const QString& title);
    void importWanted(const QString& file); ///< a case that was packed elsewhere
    void demoWanted();
    void sketchWanted(const QString& name); ///< a board from photos

  protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    void chooseFiles();
    void chooseCase();
    void bringIn(const QStringList& files);
    void readFolders();
    void take(const std::vector<CaseSummary>& fresh);

    Casebook& m_book;
    QLineEdit *m_search, *m_sketchName, *m_supply, *m_meter, *m_camera;
    QListView* m_list;
    CaseList* m_found;
    QLabel *m_said, *m_empty, *m_reading;
    bool m_reads = false;
    int m_taken = 0; ///< cases that were read in this going over
    QElapsedTimer m_sinceFilled;
    std::atomic<bool> m_stop = false;
    Background m_background;
};

} // namespace ustor
