#include "session/begun_injection.h"

#include "diagnosis/fact/fact_json.h"
#include "thermal/power.h"
#include "thermal/recording_reader.h"

#include <QFile>
#include <QSaveFile>
#include <algorithm>

namespace ustor {
namespace {

constexpr const char* ending = ".begun.json";

std::filesystem::path fileFor(const std::filesystem::path& recording) {
    return recording.string() + ending;
}

bool isNamed(const std::vector<Fact>& facts, const std::string& recording) {
    return std::any_of(facts.begin(), facts.end(), [&](const Fact& fact) {
        const auto* done = std::get_if<InjectionDone>(&fact.body);
        return done && done->recording == recording;
    });
}

Outcome write(const Fact& begun, const std::filesystem::path& path) {
    std::error_code fault;
    std::filesystem::create_directories(path.parent_path(), fault);
    QSaveFile file(QString::fromStdString(path.string()));
    const std::string line = factToJson(begun) + "\n";
    const bool written =
        file.open(QIODevice::WriteOnly) &&
        file.write(line.data(), static_cast<qint64>(line.size())) == static_cast<qint64>(line.size()) &&
        file.commit();
    if (written) return Done{};
    return Error{say("what is injected could not be noted for the case that the program ends: {file}",
                     {{"file", file.errorString().toStdString()}}),
                 path.string(), say("no injection was noted")};
}

/// Nothing where the file tells of no injection.
std::optional<Fact> readBegun(const std::filesystem::path& path) {
    QFile file(QString::fromStdString(path.string()));
    const bool open = file.open(QIODevice::ReadOnly);
    auto fact = factFromJson(open ? file.readAll().trimmed().toStdString() : std::string());
    if (!fact || !std::holds_alternative<InjectionDone>(fact.value().body)) return std::nullopt;
    return std::move(fact.value());
}

/// What the recording tells of power and time; the fact names no recording where none was begun. What the
/// supply showed meanwhile.
std::optional<NewestPulse::Shown> readOff(const std::filesystem::path& recording, InjectionDone& done) {
    const auto read = readRecordingTimes(recording); // pictures are not needed, and may be many
    if (!read) {
        if (!std::filesystem::exists(recording)) done.recording.clear();
        return std::nullopt;
    }
    const auto& supply = read.value().supply;
    done.deliveredWatts = meanOnPower_w(supply);
    double amps = 0;
    NewestPulse pulse;
    for (const SupplySample& sample : supply) {
        pulse.add(sample);
        if (sample.output) amps = std::max(amps, sample.setAmps);
    }
    if (amps > 0) done.amps = amps;
    if (!read.value().frames.empty())
        done.seconds = read.value().frames.back().time_s - read.value().frames.front().time_s;
    return pulse.shown();
}

} // namespace

Outcome noteBegun(const InjectionPlan& plan, const InjectionSpot& spot,
                  const std::filesystem::path& recording, bool byHand, const CaseSession& session) {
    const auto& first = plan.steps.front();
    const NetIndex net = netOfPlace(session.board(), spot.plus);
    const std::string folder = std::filesystem::relative(recording, session.folder().path).generic_string();
    Fact begun;
    begun.id = 1;
    begun.body = InjectionDone{net >= 0 ? session.board().nets[net].name : spot.plus,
                               spot.plus,
                               spot.minus,
                               first.volts.value,
                               first.amps.value,
                               0,
                               0,
                               folder,
                               StopCause::ProgramEnded,
                               byHand};
    return write(begun, fileFor(recording));
}

void noteEnded(const std::filesystem::path& recording, StopCause cause) {
    auto fact = readBegun(fileFor(recording));
    if (!fact) return;
    std::get<InjectionDone>(fact->body).cause = cause;
    (void)write(*fact, fileFor(recording)); // where it cannot, the earlier note stands
}

void forgetBegun(const std::filesystem::path& recording) {
    std::error_code fault;
    std::filesystem::remove(fileFor(recording), fault);
}

RecoveredInjections recoverBegun(CaseSession& session) {
    RecoveredInjections recovered;
    const auto folder = session.folder().path / "recordings";
    std::error_code fault;
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(folder, fault))
        if (entry.path().string().ends_with(ending)) files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    for (const auto& path : files) {
        const std::string text = path.string();
        const std::filesystem::path recording = text.substr(0, text.size() - std::string(ending).size());
        const auto fact = readBegun(path);
        if (!fact) {
            recovered.troubles.push_back(
                say("{file}: tells of no injection; the file was left as it is", {{"file", text}}));
            continue;
        }
        InjectionDone done = std::get<InjectionDone>(fact->body);
        if (!isNamed(session.facts(), done.recording)) {
            const auto pulse = readOff(recording, done);
            std::vector<FactBody> facts{done};
            if (const auto shown = shownDuring(done, pulse)) facts.emplace_back(*shown);
            if (const auto added = session.add(facts); !added) {
                recovered.troubles.push_back(added.error().message());
                continue;
            }
            ++recovered.injections;
            recovered.cutOff += done.cause == StopCause::ProgramEnded;
        }
        forgetBegun(recording);
    }
    return recovered;
}

} // namespace ustor
