#include "store/casebook.h"

#include "store/case_folder.h"

#include <QSqlError>
#include <QSqlQuery>
#include <QStringList>
#include <QVariant>

namespace ustor {
namespace {

Error sqlError(const QSqlQuery& query, const char* doing) {
    return Error{std::string(doing) + ": " + query.lastError().text().toStdString(), "casebook",
                 "the case folders are unchanged"};
}

QString text(const std::string& s) {
    return QString::fromStdString(s);
}

constexpr const char* schema = "CREATE TABLE IF NOT EXISTS cases (folder TEXT PRIMARY KEY, title TEXT, board "
                               "TEXT, complaint TEXT, status TEXT, "
                               "culprit TEXT, changed REAL, words TEXT)";
constexpr int schemaVersion = 1;

} // namespace

Outcome Casebook::prepare(const QString& database) {
    QSqlDatabase db = QSqlDatabase::database(m_connection, false);
    db.close();
    db.setDatabaseName(database);
    // Another window that writes just now is waited for, but not for long.
    db.setConnectOptions("QSQLITE_BUSY_TIMEOUT=500");
    if (!db.open()) return Error{db.lastError().text().toStdString(), database.toStdString(), ""};
    QSqlQuery query(db);
    if (!query.exec("PRAGMA user_version")) return sqlError(query, "the index cannot be read");
    const int version = query.next() ? query.value(0).toInt() : 0;
    if (version > schemaVersion)
        return Error{"it was written by a newer version", database.toStdString(), "it is unchanged"};
    query.finish();
    // Only an index: it is made anew from the case folders, so nobody has to wait until it is on the disk.
    query.exec("PRAGMA synchronous = OFF");
    if (!query.exec(schema) || !query.exec(QString("PRAGMA user_version = %1").arg(schemaVersion)) ||
        !query.exec("SELECT COUNT(*) FROM cases"))
        return sqlError(query, "the index cannot be prepared");
    return Done{};
}

Result<std::unique_ptr<Casebook>> Casebook::open(const std::filesystem::path& folder) {
    std::error_code fault;
    std::filesystem::create_directories(folder, fault);
    if (!std::filesystem::is_directory(folder, fault))
        return Error{"is no folder and none can be made there", folder.string(), ""};
    std::unique_ptr<Casebook> book(new Casebook);
    book->m_folder = folder;
    static int count = 0;
    book->m_connection = QString("casebook-%1").arg(++count);
    QSqlDatabase::addDatabase("QSQLITE", book->m_connection);
    const auto file = folder / "casebook.sqlite";
    auto prepared = book->prepare(text(file.string()));
    if (prepared) return book;
    book->m_trouble = "The index of cases could not be used (" + prepared.error().text() + ")";
    const auto& what = prepared.error().what;
    if (what.find("not a database") != std::string::npos || what.find("malformed") != std::string::npos) {
        QSqlDatabase::database(book->m_connection, false).close();
        std::filesystem::rename(file, file.string() + ".damaged", fault);
        if (!fault && (prepared = book->prepare(text(file.string())))) {
            book->m_trouble += "; it lies in casebook.sqlite.damaged and was made anew from the cases.";
            return book;
        }
    }
    if (prepared = book->prepare(":memory:"); !prepared) return prepared.error();
    book->m_trouble +=
        "; it is made anew each time until that is mended. The cases themselves are unchanged.";
    return book;
}

Casebook::~Casebook() {
    if (m_connection.isEmpty()) return;
    QSqlDatabase::database(m_connection, false).close();
    QSqlDatabase::removeDatabase(m_connection);
}

Outcome Casebook::note(const CaseEntry& entry, const std::string& words) {
    QSqlQuery query(QSqlDatabase::database(m_connection));
    query.prepare("INSERT OR REPLACE INTO cases VALUES (?, ?, ?, ?, ?, ?, ?, ?)");
    for (const std::string& value :
         {entry.folder.string(), entry.title, entry.board, entry.complaint, entry.status, entry.culprit})
        query.addBindValue(text(value));
    query.addBindValue(entry.changed_s);
    query.addBindValue(text(words));
    if (!query.exec()) return sqlError(query, "the case cannot be noted");
    return Done{};
}

Result<std::vector<CaseEntry>> Casebook::find(const std::string& wanted) const {
    QSqlQuery query(QSqlDatabase::database(m_connection));
    QString where;
    QStringList bound;
    for (const QString& word : text(wanted).split(' ', Qt::SkipEmptyParts)) {
        where += where.isEmpty() ? " WHERE " : " AND ";
        where += "(title || ' ' || board || ' ' || complaint || ' ' || culprit || ' ' || status || ' ' || "
                 "words) LIKE ? ESCAPE '\\'";
        QString escaped = word;
        escaped.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_");
        bound << "%" + escaped + "%";
    }
    query.prepare("SELECT folder, title, board, complaint, status, culprit, changed FROM cases" + where +
                  " ORDER BY changed DESC");
    for (const QString& word : bound)
        query.addBindValue(word);
    if (!query.exec()) return sqlError(query, "the casebook cannot be searched");
    std::vector<CaseEntry> found;
    const auto cell = [&query](int i) { return query.value(i).toString().toStdString(); };
    while (query.next())
        found.push_back({cell(0), cell(1), cell(2), cell(3), cell(4), cell(5), query.value(6).toDouble()});
    return found;
}

Outcome Casebook::refresh() {
    const auto known = find("");
    if (!known) return known.error();
    std::error_code fault;
    for (const CaseEntry& entry : known.value())
        if (!std::filesystem::exists(entry.folder / "case.json", fault)) {
            QSqlQuery query(QSqlDatabase::database(m_connection));
            query.prepare("DELETE FROM cases WHERE folder = ?");
            query.addBindValue(text(entry.folder.string()));
            if (!query.exec()) return sqlError(query, "a case that is gone cannot be dropped");
        }
    for (const auto& item : std::filesystem::directory_iterator(m_folder, fault)) {
        const bool listed = std::any_of(known.value().begin(), known.value().end(),
                                        [&](const CaseEntry& e) { return e.folder == item.path(); });
        if (listed || !std::filesystem::exists(item.path() / "case.json", fault)) continue;
        const auto opened = CaseFolder::openToRead(item.path());
        if (!opened) continue; // damaged: opening it says why
        const auto& facts = opened.value().log->facts();
        if (auto noted = note(entryFor(item.path(), opened.value().title, opened.value().board, facts),
                              wordsOf(facts));
            !noted)
            return noted;
    }
    return Done{};
}

CaseEntry entryFor(const std::filesystem::path& folder, const std::string& title, const Board& board,
                   const std::vector<Fact>& facts) {
    CaseEntry entry;
    entry.folder = folder;
    entry.title = title;
    entry.board = board.name;
    const CaseState state = caseState(board, facts);
    entry.complaint = state.complaint;
    entry.status = !state.closed ? "open" : state.closed->fixed ? "fixed" : "closed";
    if (state.closed) entry.culprit = state.closed->culprit;
    if (!facts.empty()) entry.changed_s = facts.back().time_s;
    return entry;
}

std::string wordsOf(const std::vector<Fact>& facts) {
    std::string words;
    for (const Fact* fact : activeFacts(facts))
        words += sentenceOf(fact->body) + "\n";
    return words;
}

} // namespace ustor
