#include "store/fact_log.h"

#include "diagnosis/fact/fact_json.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <limits>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace ustor {

FactLog::~FactLog() {
    if (m_fd >= 0) ::close(m_fd);
}

Result<std::unique_ptr<FactLog>> FactLog::open(const std::filesystem::path& file) {
    std::unique_ptr<FactLog> log(new FactLog(file));
    log->m_fd = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (log->m_fd < 0)
        return Error{say("cannot be opened: {fault}", {{"fault", std::strerror(errno)}}), file.string(), {}};
    if (::flock(log->m_fd, LOCK_EX | LOCK_NB) != 0)
        return Error{say("this case is open in another window"), file.string(),
                     say("it is unchanged; close it there first")};
    log->m_writes = true;
    if (const auto loaded = log->load(); !loaded) return loaded.error();
    return log;
}

Result<std::unique_ptr<FactLog>> FactLog::openToRead(const std::filesystem::path& file) {
    std::unique_ptr<FactLog> log(new FactLog(file));
    log->m_fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC);
    if (log->m_fd < 0 && errno != ENOENT) // a case without facts yet has none
        return Error{say("cannot be opened: {fault}", {{"fault", std::strerror(errno)}}), file.string(), {}};
    if (log->m_fd < 0) return log;
    if (const auto loaded = log->load(); !loaded) return loaded.error();
    return log;
}

Outcome FactLog::readText(std::string& text) const {
    char chunk[65536];
    for (;;) {
        const auto size = ::read(m_fd, chunk, sizeof chunk);
        if (size < 0)
            return Error{say("cannot be read: {fault}", {{"fault", std::strerror(errno)}}), m_file.string(),
                         say("it is unchanged")};
        if (size == 0) return Done{};
        text.append(chunk, static_cast<std::size_t>(size));
    }
}

/// The torn last line goes into a file of its own; where the file is only read it is left.
Outcome FactLog::cutTorn(std::string& text, std::size_t from) {
    if (!m_writes) {
        m_warnings.emplace_back(
            say("the last line is not whole (it may be written just now); it is not counted"));
        text.resize(from);
        return Done{};
    }
    std::ofstream(m_file.parent_path() / "facts.torn", std::ios::app | std::ios::binary)
        << text.substr(from) << '\n';
    if (::ftruncate(m_fd, static_cast<off_t>(from)) != 0)
        return Error{
            say("the torn last line cannot be taken off: {fault}", {{"fault", std::strerror(errno)}}),
            m_file.string(), say("it is unchanged")};
    m_warnings.emplace_back(
        say("the last line was torn when the program ended; it is kept in facts.torn, all facts "
            "before it are whole"));
    text.resize(from);
    return Done{};
}

void FactLog::take(std::string_view line, int number) {
    const std::string where = m_file.filename().string() + ":" + std::to_string(number);
    auto fact = factFromJson(line);
    // Numbers of lines that do not count are not given again: a strike would hit another fact.
    if (const auto id = fact ? fact.value().id : idInJson(line).value_or(0);
        id < std::numeric_limits<long>::max())
        m_nextId = std::max(m_nextId, id + 1);
    if (!fact) {
        m_warnings.push_back(
            say("{where}: {why} (line kept, not counted)", {{"where", where}, {"why", fact.error().what}}));
        return;
    }
    if (!m_facts.empty() && fact.value().id <= m_facts.back().id)
        m_warnings.push_back(
            say("{where}: the number {id} does not rise; what strikes it may mean another fact",
                {{"where", where}, {"id", fact.value().id}}));
    if (const auto* unknown = std::get_if<UnknownFact>(&fact.value().body))
        m_warnings.push_back(say("{where}: a fact of a newer version ('{kind}') is kept and not judged",
                                 {{"where", where}, {"kind", unknown->kind}}));
    m_facts.push_back(std::move(fact.value()));
}

Outcome FactLog::load() {
    std::string text;
    if (const auto read = readText(text); !read) return read.error();
    if (const auto whole = text.rfind('\n') + 1; whole < text.size())
        if (const auto cut = cutTorn(text, whole); !cut) return cut.error();
    int line = 0;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = text.find('\n', at);
        take(std::string_view(text).substr(at, end - at), ++line);
        at = end + 1;
    }
    m_size = static_cast<long>(text.size());
    return Done{};
}

/// A folder that was deleted or moved meanwhile takes every line and keeps none.
bool FactLog::isWhereItWas() const {
    struct stat open {};
    struct stat named {};
    return ::fstat(m_fd, &open) == 0 && open.st_nlink > 0 && ::stat(m_file.c_str(), &named) == 0 &&
           open.st_ino == named.st_ino && open.st_dev == named.st_dev;
}

Result<Fact> FactLog::append(const FactBody& body, double time_s) {
    if (!m_writes)
        return Error{say("this case was opened to be looked at"), m_file.string(),
                     say("the fact was not accepted")};
    if (!isWhereItWas())
        return Error{say("the case was deleted or moved while it was open"), m_file.string(),
                     say("the fact was not accepted; what was noted before went with the folder")};
    const Fact fact{m_nextId, time_s, body};
    const std::string line = factToJson(fact) + "\n";
    const auto undo = [&](const Message& doing) -> Error {
        const std::string why = std::strerror(errno);
        // Half a line must not stay: the next fact would be glued to it.
        const bool cut = ::ftruncate(m_fd, m_size) == 0;
        return Error{joined({doing, verbatim(why)}, ": "), m_file.string(),
                     cut ? say("all facts before it are kept; this one was not accepted")
                         : say("facts before it are kept")};
    };
    std::size_t written = 0;
    while (written < line.size()) {
        const auto size =
            ::pwrite(m_fd, line.data() + written, line.size() - written, m_size + static_cast<long>(written));
        if (size < 0 && errno == EINTR) continue;
        if (size <= 0) return undo(say("the fact cannot be written"));
        written += static_cast<std::size_t>(size);
    }
    if (::fdatasync(m_fd) != 0) return undo(say("the fact cannot be brought to the disk"));
    m_size += static_cast<long>(line.size());
    ++m_nextId;
    m_facts.push_back(fact);
    return fact;
}

} // namespace ustor
