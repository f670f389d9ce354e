#pragma once

#include "base/message.h"
#include "store/case_summary.h"

#include <QSqlDatabase>
#include <memory>

namespace ustor {

/// Finds cases again. An index in SQLite beside the case folders; the folders are the truth, and the index
/// can be made anew from them at any time.
class Casebook {
  public:
    /// The index is never in the way: a damaged one is put aside and made anew, and where it cannot be
    /// written at all it is kept in memory (`trouble`). Error only when the folder itself cannot be had.
    static Result<std::unique_ptr<Casebook>> open(const std::filesystem::path& folder);
    ~Casebook();
    Casebook(const Casebook&) = delete;
    Casebook& operator=(const Casebook&) = delete;

    /// Notes how cases stand; all of them, or none.
    Outcome note(const std::vector<CaseSummary>& cases);
    /// Drops entries whose folder is gone.
    Outcome drop(const std::vector<std::filesystem::path>& folders);
    /// The cases that are noted, with the size of their facts then: what `scanCases` asks for.
    Result<std::map<std::filesystem::path, long>> known() const;
    /// Cases that hold all the words in title, board, complaint, facts or culprit; newest first. All of them
    /// for an empty text.
    Result<std::vector<CaseEntry>> find(const std::string& text) const;
    /// Takes in case folders that lie beside the index and are not in it yet or have changed, and drops
    /// entries whose folder is gone. It waits; a window scans in a thread instead.
    Outcome refresh();
    std::filesystem::path folder() const { return m_folder; }
    /// Why the index on disk could not be used; empty where it is.
    const Message& trouble() const { return m_trouble; }

  private:
    Casebook() = default;
    Outcome prepare(const QString& database);

    std::filesystem::path m_folder;
    Message m_trouble;
    bool m_damaged = false; ///< the file on disk is no index any more
    QString m_connection;
};

} // namespace ustor
