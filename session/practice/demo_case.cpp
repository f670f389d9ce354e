#include "session/practice/demo_case.h"

#include "board/board_files.h"
#include "session/practice/standin_process.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>

namespace ustor {

QStringList DemoScenario::standInArguments(double speed) const {
    QStringList arguments;
    for (const auto& file : boardFiles)
        arguments << QString::fromStdString(file.string());
    return arguments << "--seed" << QString::number(seed) << "--fault" << QString::fromStdString(hiddenPart)
                     << "--ohms" << QString::number(hiddenOhms) << "--speed" << QString::number(speed)
                     << QString("--patience") << QString::number(patienceInPractice);
}

Result<std::filesystem::path> demoFolder() {
    const QString program = QCoreApplication::applicationDirPath();
    // Installed, or in a build folder two or three levels below the source tree.
    for (const char* way : {"/demo", "/../share/ustor/demo", "/../../../demo", "/../../demo"})
        if (QFile::exists(program + way + "/scenario.json"))
            return std::filesystem::weakly_canonical((program + way).toStdString());
    return Error{say("the demo data is not beside the program"), program.toStdString(), {}};
}

Result<DemoScenario> demoScenario() {
    const auto folder = demoFolder();
    if (!folder) return folder.error();
    QFile file(QString::fromStdString((folder.value() / "scenario.json").string()));
    if (!file.open(QIODevice::ReadOnly))
        return Error{say("cannot be read"), file.fileName().toStdString(), {}};
    const QJsonObject j = QJsonDocument::fromJson(file.readAll()).object();
    if (j["format"].toString() != "ustor-demo/1")
        return Error{say("not a demo scenario"), file.fileName().toStdString(), {}};
    DemoScenario scenario;
    scenario.title = j["title"].toString().toStdString();
    scenario.complaint = j["complaint"].toString().toStdString();
    for (const auto& name : j["board"].toArray())
        scenario.boardFiles.push_back(folder.value() / name.toString().toStdString());
    scenario.hiddenPart = j["hidden_part"].toString().toStdString();
    scenario.hiddenOhms = j["hidden_ohms"].toDouble();
    scenario.seed = static_cast<std::uint64_t>(j["seed"].toInteger());
    return scenario;
}

Result<CaseFolder> makeDemoCase(const DemoScenario& scenario, const std::filesystem::path& casebook) {
    const auto board = readBoardFiles(scenario.boardFiles);
    if (!board) return board.error();
    auto folder = CaseFolder::create(freeCaseFolder(casebook, scenario.title), scenario.title, board.value());
    if (!folder) return folder;
    const double now_s = static_cast<double>(QDateTime::currentMSecsSinceEpoch()) * 1e-3;
    if (const auto noted = folder.value().log->append(Complaint{scenario.complaint}, now_s); !noted)
        return noted.error();
    return folder;
}

} // namespace ustor
