#include "session/painted_surfaces.h"

#include <QFile>
#include <QSaveFile>

namespace ustor {

std::filesystem::path PaintedSurfaces::fileOf(Over over) const {
    constexpr std::array<const char*, 3> names{"surfaces-top.json", "surfaces-bottom.json",
                                               "surfaces-stills.json"};
    return m_folder / names[over];
}

std::vector<Error> PaintedSurfaces::open(const std::filesystem::path& folder) {
    std::vector<Error> troubles;
    m_folder = folder;
    for (const Over over : {Top, Bottom, Stills}) {
        m_strokes[over].clear();
        QFile file(QString::fromStdString(fileOf(over).string()));
        if (folder.empty() || !file.open(QIODevice::ReadOnly)) continue;
        auto read = surfacesFromJson(file.readAll().toStdString(), file.fileName().toStdString());
        if (read)
            m_strokes[over] = std::move(read.value());
        else
            troubles.push_back(read.error());
    }
    return troubles;
}

Outcome PaintedSurfaces::add(Over over, const SurfaceStroke& stroke) {
    m_strokes[over].push_back(stroke);
    return save(over);
}

Outcome PaintedSurfaces::takeBack(Over over) {
    if (m_strokes[over].empty()) return Done{};
    m_strokes[over].pop_back();
    return save(over);
}

Outcome PaintedSurfaces::save(Over over) const {
    QSaveFile file(QString::fromStdString(fileOf(over).string()));
    const bool kept =
        file.open(QIODevice::WriteOnly) && file.write(surfacesToJson(m_strokes[over]).c_str()) > 0;
    if (kept && file.commit()) return Done{};
    return Error{"the surfaces hold for now but could not be saved: " + file.errorString().toStdString(),
                 fileOf(over).string(), "what was saved before"};
}

} // namespace ustor
