#pragma once

#include "store/report.h"

#include <QObject>
#include <QProcess>
#include <QTimer>

namespace ustor {

/// A report on its way into a file: .html is written at once, .pdf is set by a program beside
/// (`ustor-print`), so that nothing here needs fonts and no window waits.
class ReportFile : public QObject {
    Q_OBJECT

  public:
    explicit ReportFile(QObject* parent = nullptr);
    ~ReportFile() override;

    /// Begins; what comes of it arrives by `done`, never before this returns. One at a time: a second begin
    /// while the first is under way is refused by `done`.
    void begin(const ReportInput& input, const std::filesystem::path& file);
    bool isUnderWay() const { return m_underWay; }

  signals:
    /// Done, or why the file could not be written; an older one of that name is then as it was.
    void done(const std::filesystem::path& file, const ustor::Outcome& outcome);

  private:
    void end(const Outcome& outcome);
    void endPage(int code, QProcess::ExitStatus how);

    QProcess m_print;
    QTimer m_patience; ///< with a program that hangs
    std::filesystem::path m_file, m_half;
    bool m_underWay = false;
};

} // namespace ustor
