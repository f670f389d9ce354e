#include "store/casebook.h"

#include <QSqlError>
#include <QSqlQuery>
#include <QStringList>
#include <QVariant>

namespace ustor {
namespace {

Error sqlError(const QSqlError& fault, const Message& doing) {
    return Error{joined({doing, verbatim(fault.text().toStdString())}, ": "), "casebook",
                 say("the case folders are unchanged")};
}

/// Whether the file itself is no index any more: SQLITE_CORRUPT and SQLITE_NOTADB of sqlite3.h.
bool isDamage(const QSqlError& fault) {
    const QString code = fault.nativeErrorCode();
    return code == "11" || code == "26";
}

QString text(const std::string& s) {
    return QString::fromStdString(s);
}

constexpr const char* schema = "CREATE TABLE IF NOT EXISTS cases (folder TEXT PRIMARY KEY, title TEXT, board "
                               "TEXT, complaint TEXT, status TEXT, "
                               "culprit TEXT, changed REAL, words TEXT, size INTEGER)";
constexpr int schemaVersion = 2;

} // namespace

Outcome Casebook::prepare(const QString& database) {
    QSqlDatabase db = QSqlDatabase::database(m_connection, false);
    db.close();
    db.setDatabaseName(database);
    // Another window that writes just now is waited for, but not for long.
    db.setConnectOptions("QSQLITE_BUSY_TIMEOUT=500");
    if (!db.open()) return Error{verbatim(db.lastError().text().toStdString()), database.toStdString(), {}};
    QSqlQuery query(db);
    const auto failed = [&](const Message& doing) {
        m_damaged = isDamage(query.lastError());
        return sqlError(query.lastError(), doing);
    };
    if (!query.exec("PRAGMA user_version")) return failed(say("the index cannot be read"));
    const int version = query.next() ? query.value(0).toInt() : 0;
    if (version > schemaVersion)
        return Error{say("it was written by a newer version"), database.toStdString(),
                     say("it is unchanged")};
    query.finish();
    // An older one is made anew from the case folders.
    if (version > 0 && version < schemaVersion && !query.exec("DROP TABLE IF EXISTS cases"))
        return failed(say("an older index cannot be made anew"));
    // Only an index: it is made anew from the case folders, so nobody has to wait until it is on the disk.
    query.exec("PRAGMA synchronous = OFF");
    if (!query.exec(schema) || !query.exec(QString("PRAGMA user_version = %1").arg(schemaVersion)) ||
        !query.exec("SELECT COUNT(*) FROM cases"))
        return failed(say("the index cannot be prepared"));
    return Done{};
}

Result<std::unique_ptr<Casebook>> Casebook::open(const std::filesystem::path& folder) {
    std::error_code fault;
    std::filesystem::create_directories(folder, fault);
    if (!std::filesystem::is_directory(folder, fault))
        return Error{say("is no folder and none can be made there"), folder.string(), {}};
    std::unique_ptr<Casebook> book(new Casebook);
    book->m_folder = folder;
    static int count = 0;
    book->m_connection = QString("casebook-%1").arg(++count);
    QSqlDatabase::addDatabase("QSQLITE", book->m_connection);
    const auto file = folder / "casebook.sqlite";
    auto prepared = book->prepare(text(file.string()));
    if (prepared) return book;
    const Message why = prepared.error().message();
    if (book->m_damaged) {
        QSqlDatabase::database(book->m_connection, false).close();
        std::filesystem::rename(file, file.string() + ".damaged", fault);
        if (!fault && (prepared = book->prepare(text(file.string())))) {
            book->m_trouble = say("The index of cases could not be used ({why}); it lies in "
                                  "casebook.sqlite.damaged and was made anew from the cases.",
                                  {{"why", why}});
            return book;
        }
    }
    if (prepared = book->prepare(":memory:"); !prepared) return prepared.error();
    book->m_trouble =
        say("The index of cases could not be used ({why}); it is made anew each time until that is "
            "mended. The cases themselves are unchanged.",
            {{"why", why}});
    return book;
}

Casebook::~Casebook() {
    if (m_connection.isEmpty()) return;
    QSqlDatabase::database(m_connection, false).close();
    QSqlDatabase::removeDatabase(m_connection);
}

Outcome Casebook::note(const std::vector<CaseSummary>& cases) {
    QSqlDatabase db = QSqlDatabase::database(m_connection);
    db.transaction();
    QSqlQuery query(db);
    query.prepare("INSERT OR REPLACE INTO cases VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)");
    for (const auto& [entry, words, size] : cases) {
        for (const std::string& value :
             {entry.folder.string(), entry.title, entry.board, entry.complaint, entry.status, entry.culprit})
            query.addBindValue(text(value));
        query.addBindValue(entry.changed_s);
        query.addBindValue(text(words));
        query.addBindValue(static_cast<qlonglong>(size));
        if (query.exec()) continue;
        const Error error = sqlError(query.lastError(), say("the case cannot be noted"));
        db.rollback();
        return error;
    }
    if (!db.commit()) return sqlError(db.lastError(), say("the cases cannot be noted"));
    return Done{};
}

Outcome Casebook::drop(const std::vector<std::filesystem::path>& folders) {
    for (const auto& folder : folders) {
        QSqlQuery query(QSqlDatabase::database(m_connection));
        query.prepare("DELETE FROM cases WHERE folder = ?");
        query.addBindValue(text(folder.string()));
        if (!query.exec()) return sqlError(query.lastError(), say("a case that is gone cannot be dropped"));
    }
    return Done{};
}

Result<std::map<std::filesystem::path, long>> Casebook::known() const {
    QSqlQuery query(QSqlDatabase::database(m_connection));
    if (!query.exec("SELECT folder, size FROM cases"))
        return sqlError(query.lastError(), say("the casebook cannot be read"));
    std::map<std::filesystem::path, long> known;
    while (query.next())
        known[query.value(0).toString().toStdString()] = static_cast<long>(query.value(1).toLongLong());
    return known;
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
    if (!query.exec()) return sqlError(query.lastError(), say("the casebook cannot be searched"));
    std::vector<CaseEntry> found;
    const auto cell = [&query](int i) { return query.value(i).toString().toStdString(); };
    while (query.next())
        found.push_back({cell(0), cell(1), cell(2), cell(3), cell(4), cell(5), query.value(6).toDouble()});
    return found;
}

Outcome Casebook::refresh() {
    const auto before = known();
    if (!before) return before.error();
    std::vector<CaseSummary> fresh;
    const auto gone = scanCases(
        m_folder, before.value(), [&fresh](CaseSummary summary) { fresh.push_back(std::move(summary)); },
        [] { return true; });
    if (auto dropped = drop(gone); !dropped) return dropped;
    return note(fresh);
}

} // namespace ustor
