#include "store/fact_log.h"

#include "diagnosis/fact_json.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sys/file.h>
#include <unistd.h>

namespace ustor {

FactLog::~FactLog() {
    if (m_fd >= 0) ::close(m_fd);
}

Result<std::unique_ptr<FactLog>> FactLog::open(const std::filesystem::path& file) {
    std::unique_ptr<FactLog> log(new FactLog(file));
    log->m_fd = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (log->m_fd < 0)
        return Error{std::string("cannot be opened: ") + std::strerror(errno), file.string(), ""};
    if (::flock(log->m_fd, LOCK_EX | LOCK_NB) != 0)
        return Error{"this case is open in another window", file.string(),
                     "it is unchanged; close it there first"};
    if (const auto loaded = log->load(); !loaded) return loaded.error();
    return log;
}

Outcome FactLog::load() {
    std::string text;
    char chunk[65536];
    for (;;) {
        const auto size = ::read(m_fd, chunk, sizeof chunk);
        if (size < 0)
            return Error{std::string("cannot be read: ") + std::strerror(errno), m_file.string(),
                         "it is unchanged"};
        if (size == 0) break;
        text.append(chunk, static_cast<std::size_t>(size));
    }
    std::size_t at = 0;
    int line = 0;
    while (at < text.size()) {
        const auto end = text.find('\n', at);
        ++line;
        if (end == std::string::npos) {
            const std::string torn = text.substr(at);
            std::ofstream(m_file.parent_path() / "facts.torn", std::ios::app | std::ios::binary)
                << torn << '\n';
            if (::ftruncate(m_fd, static_cast<off_t>(at)) != 0)
                return Error{std::string("the torn last line cannot be taken off: ") + std::strerror(errno),
                             m_file.string(), "it is unchanged"};
            m_warnings.push_back("the last line was torn when the program ended; it is kept in facts.torn, "
                                 "all facts before it are whole");
            text.resize(at);
            break;
        }
        const auto fact = factFromJson(std::string_view(text).substr(at, end - at));
        at = end + 1;
        if (!fact) {
            m_warnings.push_back(m_file.filename().string() + ":" + std::to_string(line) + ": " +
                                 fact.error().what + " (line kept, not counted)");
            continue;
        }
        if (const auto* unknown = std::get_if<UnknownFact>(&fact.value().body))
            m_warnings.push_back(m_file.filename().string() + ":" + std::to_string(line) +
                                 ": a fact of a newer version ('" + unknown->kind +
                                 "') is kept and not judged");
        m_nextId = std::max(m_nextId, fact.value().id + 1);
        m_facts.push_back(fact.value());
    }
    m_size = static_cast<long>(text.size());
    return Done{};
}

Result<Fact> FactLog::append(const FactBody& body, double time_s) {
    const Fact fact{m_nextId, time_s, body};
    const std::string line = factToJson(fact) + "\n";
    const auto undo = [&](const char* doing) -> Error {
        const std::string why = std::strerror(errno);
        // Half a line must not stay: the next fact would be glued to it.
        const bool cut = ::ftruncate(m_fd, m_size) == 0;
        return Error{std::string(doing) + ": " + why, m_file.string(),
                     cut ? "all facts before it are kept; this one was not accepted"
                         : "facts before it are kept"};
    };
    std::size_t written = 0;
    while (written < line.size()) {
        const auto size =
            ::pwrite(m_fd, line.data() + written, line.size() - written, m_size + static_cast<long>(written));
        if (size < 0 && errno == EINTR) continue;
        if (size <= 0) return undo("the fact cannot be written");
        written += static_cast<std::size_t>(size);
    }
    if (::fdatasync(m_fd) != 0) return undo("the fact cannot be brought to the disk");
    m_size += static_cast<long>(line.size());
    ++m_nextId;
    m_facts.push_back(fact);
    return fact;
}

} // namespace ustor
