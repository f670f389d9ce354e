#include "store/whole_file.h"

#include <QSaveFile>
#include <QString>

namespace ustor {

Outcome writeWhole(const std::filesystem::path& file, const std::string& text) {
    QSaveFile out(QString::fromStdString(file.string()));
    if (!out.open(QIODevice::WriteOnly) || out.write(text.c_str()) != static_cast<qint64>(text.size()) ||
        !out.commit())
        return Error{say("cannot be written: {fault}", {{"fault", out.errorString().toStdString()}}),
                     file.string(), say("an older file is unchanged")};
    return Done{};
}

} // namespace ustor
