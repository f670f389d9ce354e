#pragma once

#include "base/result.h"
#include "diagnosis/fact.h"

#include <filesystem>
#include <memory>
#include <string>
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
    ~FactLog();
    FactLog(const FactLog&) = delete;
    FactLog& operator=(const FactLog&) = delete;

    const std::vector<Fact>& facts() const { return m_facts; }
    const std::vector<std::string>& warnings() const { return m_warnings; }

    /// Gives the fact its number, writes and flushes it. On failure (disk full) the file is as before and the
    /// fact is not accepted.
    Result<Fact> append(const FactBody& body, double time_s);

  private:
    explicit FactLog(std::filesystem::path file) : m_file(std::move(file)) {}
    Outcome load();

    std::filesystem::path m_file;
    int m_fd = -1;
    long m_size = 0, m_nextId = 1;
    std::vector<Fact> m_facts;
    std::vector<std::string> m_warnings;
};

} // namespace ustor
