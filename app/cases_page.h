#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "bench/instrument_address.h"
#include "store/casebook.h"

class QLabel;
class QLineEdit;
class QListWidget;

namespace ustor {

/// The casebook: cases listed, searched, opened again; a new one from board files; the demo; where the bench
/// is.
class CasesPage : public QWidget {
    Q_OBJECT
  public:
    explicit CasesPage(Casebook& book, QWidget* parent = nullptr);
    void refill();
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

    Casebook& m_book;
    QLineEdit *m_search, *m_sketchName, *m_supply, *m_meter, *m_camera;
    QListWidget* m_list;
    QLabel *m_said, *m_empty;
};

} // namespace ustor
