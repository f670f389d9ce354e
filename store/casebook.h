#pragma once

#include "base/result.h"
#include "diagnosis/assess.h"

#include <QSqlDatabase>
#include <filesystem>
#include <string>
#include <vector>

namespace ustor {

/// One line of the casebook.
struct CaseEntry {
    std::filesystem::path folder;
    std::string title, board, complaint, status, culprit; ///< status: open, fixed, closed
    double changed_s = 0;                                 ///< time of the newest fact
};

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

    /// Notes how a case stands.
    Outcome note(const CaseEntry& entry, const std::string& words);
    /// Cases that hold all the words in title, board, complaint, facts or culprit; newest first. All of them
    /// for an empty text.
    Result<std::vector<CaseEntry>> find(const std::string& text) const;
    /// Takes in case folders that lie beside the index and are not in it yet, and drops entries whose folder
    /// is gone.
    Outcome refresh();
    std::filesystem::path folder() const { return m_folder; }
    /// Why the index on disk could not be used; empty where it is.
    const std::string& trouble() const { return m_trouble; }

  private:
    Casebook() = default;
    Outcome prepare(const QString& database);

    std::filesystem::path m_folder;
    std::string m_trouble;
    QString m_connection;
};

/// What the casebook notes about a case.
CaseEntry entryFor(const std::filesystem::path& folder, const std::string& title, const Board& board,
                   const std::vector<Fact>& facts);
/// All that is to be found by searching: the sentences of the facts that count.
std::string wordsOf(const std::vector<Fact>& facts);

} // namespace ustor
