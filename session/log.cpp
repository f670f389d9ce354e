#include "session/log.h"

#include <QFile>
#include <QRegularExpression>
#include <memory>
#include <spdlog/async.h>
#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/spdlog.h>

namespace ustor {
namespace {

struct Kept {
    std::filesystem::path file;
    std::shared_ptr<spdlog::details::thread_pool> pool;
    std::shared_ptr<spdlog::async_logger> logger;
    QtMessageHandler before = nullptr;
};
std::unique_ptr<Kept> kept;

spdlog::level::level_enum levelOf(Log::Level level) {
    switch (level) {
    case Log::Level::Info:
        return spdlog::level::info;
    case Log::Level::Warning:
        return spdlog::level::warn;
    case Log::Level::Fault:
        return spdlog::level::err;
    }
    return spdlog::level::info;
}

void takeFromQt(QtMsgType type, const QMessageLogContext& context, const QString& message) {
    if (type != QtDebugMsg)
        Log::note(type == QtInfoMsg      ? Log::Level::Info
                  : type == QtWarningMsg ? Log::Level::Warning
                                         : Log::Level::Fault,
                  Log::withoutPlaces(message));
    if (kept && kept->before) kept->before(type, context, message);
}

} // namespace

Log::Log(const std::filesystem::path& folder) {
    std::error_code fault;
    std::filesystem::create_directories(folder, fault);
    try {
        constexpr std::size_t mostWaiting = 8192;
        auto fresh = std::make_unique<Kept>();
        fresh->file = folder / "ustor.log";
        auto sink = std::make_shared<spdlog::sinks::rotating_file_sink_mt>(fresh->file.string(), bytesAFile,
                                                                           files - 1);
        fresh->pool = std::make_shared<spdlog::details::thread_pool>(mostWaiting, 1);
        // A full queue drops its oldest line: the window never waits for the disk.
        fresh->logger = std::make_shared<spdlog::async_logger>("ustor", std::move(sink), fresh->pool,
                                                               spdlog::async_overflow_policy::overrun_oldest);
        fresh->logger->set_pattern("%Y-%m-%dT%H:%M:%S.%e%z %l %v");
        fresh->logger->flush_on(spdlog::level::info);
        kept = std::move(fresh);
    } catch (const spdlog::spdlog_ex& trouble) {
        qWarning("no log is kept: %s", trouble.what());
        return;
    }
    kept->before = qInstallMessageHandler(takeFromQt);
}

Log::~Log() {
    if (!kept) return;
    qInstallMessageHandler(kept->before);
    kept->logger.reset();
    kept->pool.reset(); // what waits is written first
    kept.reset();
}

void Log::note(Level level, const QString& line) {
    if (kept) kept->logger->log(levelOf(level), QString(line).replace('\n', ' ').toStdString());
}

std::filesystem::path Log::file() {
    return kept ? kept->file : std::filesystem::path();
}

QStringList Log::newest(int lines) {
    if (!kept) return {};
    QFile file(QString::fromStdString(kept->file.string()));
    if (!file.open(QIODevice::ReadOnly)) return {};
    // A line is a hundred bytes or so: of a large file only the end is read.
    constexpr qint64 enoughForALine = 400;
    file.seek(std::max<qint64>(0, file.size() - lines * enoughForALine));
    const QStringList all = QString::fromUtf8(file.readAll()).split('\n', Qt::SkipEmptyParts);
    return all.mid(std::max<qsizetype>(0, all.size() - lines));
}

QString Log::withoutPlaces(const QString& sentence) {
    // A path begins with a slash at the beginning of a word, and ends at a blank, a quote or a colon; in
    // quotes it ends with them.
    static const QRegularExpression quoted("(['\"])/(?:[^'\"]*/)?([^/'\"]*)\\1"),
        path("(?<![\\w/])/(?:[^\\s/'\":,;]+/)*([^\\s/'\":,;]*)");
    return QString(sentence).replace(quoted, "\\1\\2\\1").replace(path, "\\1");
}

} // namespace ustor
