#pragma once

#include <QString>
#include <QStringList>
#include <filesystem>

namespace ustor {

/// What the program did and what went wrong, for whoever has to find out why: "ustor.log" in a folder, the
/// newest line last, with older files beside it that go by themselves. Lines are written by a thread of their
/// own; nobody waits for the disk.
///
/// Nothing of people stands in it: no words that somebody typed, no titles, no names of folders.
/// `withoutPlaces` takes the folders out of a sentence that was made for the screen.
class Log {
  public:
    enum class Level { Info, Warning, Fault };
    /// How much is kept: so many bytes a file, so many files.
    static constexpr std::size_t bytesAFile = 1 << 20, files = 4;

    /// From now on lines are kept, those of Qt as well; nothing is where the folder cannot be written.
    explicit Log(const std::filesystem::path& folder);
    ~Log();
    Log(const Log&) = delete;
    Log& operator=(const Log&) = delete;

    /// Into the log that is kept now; into none where there is none.
    static void note(Level level, const QString& line);
    /// The newest lines of the log that is kept now, oldest first; what waits is written before.
    static QStringList newest(int lines);
    /// Where it is; empty where none is kept.
    static std::filesystem::path file();

    /// File names only, where a sentence holds whole paths.
    static QString withoutPlaces(const QString& sentence);
};

} // namespace ustor
