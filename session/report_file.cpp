#include "session/report_file.h"

#include "session/bench_link.h"

#include <QFile>
#include <chrono>

namespace ustor {
namespace {

Error cannot(Message why, const std::filesystem::path& file) {
    return {say("the report cannot be written: {fault}", {{"fault", std::move(why)}}), file.string(),
            say("the case is unchanged")};
}

} // namespace

ReportFile::ReportFile(QObject* parent) : QObject(parent) {
    connect(&m_print, &QProcess::finished, this, &ReportFile::endPage);
    // Queued: what cannot be started may be told while it is being started.
    connect(
        &m_print, &QProcess::errorOccurred, this,
        [this](QProcess::ProcessError error) {
            if (error == QProcess::FailedToStart)
                end(cannot(verbatim(m_print.errorString().toStdString()), m_print.program().toStdString()));
        },
        Qt::QueuedConnection);
    constexpr std::chrono::minutes longest{5};
    m_patience.setInterval(longest);
    m_patience.setSingleShot(true);
    connect(&m_patience, &QTimer::timeout, &m_print, &QProcess::kill);
}

ReportFile::~ReportFile() {
    m_print.disconnect(this);
    if (m_print.state() == QProcess::NotRunning) return;
    m_print.kill();
    m_print.waitForFinished();
    QFile::remove(QString::fromStdString(m_half.string()));
}

void ReportFile::begin(const ReportInput& input, const std::filesystem::path& file) {
    const auto later = [this](const Outcome& outcome) {
        QTimer::singleShot(0, this, [this, outcome] { end(outcome); });
    };
    if (m_underWay) {
        QTimer::singleShot(0, this, [this, file] {
            emit done(file, Error{say("another report is being written"), file.string(), say("wait for it")});
        });
        return;
    }
    m_underWay = true;
    m_file = file;
    if (file.extension() == ".html") return later(writeReportHtml(input, file));
    // What stood there stays until the new page is whole.
    m_half = file;
    m_half += ".part";
    m_print.setProgram(programBeside("ustor-print"));
    m_print.setArguments({QString::fromStdString(input.title), QString::fromStdString(m_half.string())});
    m_patience.start();
    m_print.start();
    m_print.write(reportHtml(input).toUtf8());
    m_print.closeWriteChannel();
}

void ReportFile::endPage(int code, QProcess::ExitStatus how) {
    std::error_code fault;
    if (how == QProcess::NormalExit && code == 0) {
        std::filesystem::rename(m_half, m_file, fault);
        return end(fault ? Outcome(cannot(verbatim(fault.message()), m_file)) : Outcome(Done{}));
    }
    std::filesystem::remove(m_half, fault);
    const std::string said = QString::fromLocal8Bit(m_print.readAllStandardError()).trimmed().toStdString();
    end(cannot(said.empty() ? say("the program that sets its pages ended") : verbatim(said), m_file));
}

void ReportFile::end(const Outcome& outcome) {
    m_patience.stop();
    m_underWay = false;
    emit done(m_file, outcome);
}

} // namespace ustor
