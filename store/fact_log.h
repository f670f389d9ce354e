#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// `facts.jsonl`: one fact a line, only ever appended. A fact is accepted when its line has reached the disk;
/// what was accepted survives the death of the process. One writer at a time.
class FactLog {
  public:
    /// Opens or makes the file. A torn last line (the process died while writing) is moved to `facts.torn`
    /// and told; lines that are no facts stay in the file, are skipped and told. Error when another process
    /// has it open.
    static Result<std::unique_ptr<FactLog>> open(const std::filesystem::path& file);
    /// Reads the file and leaves it as it is, whoever writes it meanwhile: nothing can be added.
    static Result<std::unique_ptr<FactLog>> openToRead(const std::filesystem::path& file);
    ~FactLog();
    FactLog(const FactLog&) = delete;
    FactLog& operator=(const FactLog&) = delete;

    const std::vector<Fact>& facts() const { return m_facts; }
    long nextNumber() const { return m_nextId; }
    bool takesFacts() const { return m_writes; }
    long size() const { return m_size; } ///< of the file, in bytes
    const std::vector<Message>& warnings() const { return m_warnings; }

    /// Gives the fact its number, writes and flushes it. On failure (disk full, folder gone, opened to read)
    /// the file is as before and the fact is not accepted.
    Result<Fact> append(const FactBody& body, double time_s);

  private:
    explicit FactLog(std::filesystem::path file) : m_file(std::move(file)) {}
    Outcome load();
    Outcome readText(std::string& text) const;
    Outcome cutTorn(std::string& text, std::size_t from);
    void take(std::string_view line, int number);
    bool isWhereItWas() const;

    std::filesystem::path m_file;
    bool m_writes = false;
    int m_fd = -1;
    long m_size = 0, m_nextId = 1;
    std::vector<Fact> m_facts;
    std::vector<Message> m_warnings;
};

} // namespace ustor
