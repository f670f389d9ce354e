#include "support/energised.h"

#include "bench/output_ledger.h"
#include "session/bench_link.h"
#include "support/wait.h"

#include <QDir>
#include <QElapsedTimer>
#include <QJsonDocument>
#include <QTest>
#include <csignal>

namespace ustor::testing {
namespace {

QByteArray contentsOf(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

} // namespace

QList<pid_t> childrenOf(pid_t process, const QByteArray& program) {
    QList<pid_t> children;
    const QByteArray all = contentsOf(QString("/proc/%1/task/%1/children").arg(process));
    for (const QByteArray& pid : all.split(' ')) {
        if (pid.trimmed().isEmpty()) continue;
        if (contentsOf("/proc/" + QString::fromLatin1(pid) + "/comm").trimmed() == program)
            children << pid.toInt();
    }
    return children;
}

void endGuardsOf(const InstrumentAddress& supply) {
    QProcess::execute("pkill", {"-KILL", "-f", "ustor-guard.*--supply " + supply.text()});
    for (const LedgerEntry& entry : OutputLedger::entries())
        if (entry.supply.text() == supply.text()) OutputLedger::strike(entry);
}

Energised::~Energised() {
    window.kill();
    window.waitForFinished();
    endGuardsOf(bench.address().supply);
}

QString Energised::start(const QString& profile, bool serial) {
    const QString boards = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/greenhouse-controller";
    QStringList arguments{boards + ".356", boards + ".centroid.csv", "--fault", "C10", "--ohms", "0.3"};
    if (serial) arguments << "--serial";
    if (!bench.start(programBeside("ustor-standin"), arguments).ok()) return "the bench did not start";
    if (!hands.open(bench.address().control).ok() || !hands.leads("L2.2", "J1.2").ok()) return "no hands";
    QString supply = bench.address().supply.text();
    if (serial)
        supply =
            "serial:" + QJsonDocument::fromJson(bench.readyLine())["supply_serial"].toString() + "@115200";
    if (!profile.isEmpty()) supply += "; profile=" + profile;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert("XDG_RUNTIME_DIR", m_runtime.path());
    window.setProcessEnvironment(environment);
    window.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    window.start(programBeside("ustor-energiser"), {programBeside("ustor-guard"), supply});
    constexpr int patience_ms = 15000, moment_ms = 300;
    if (!waitUntil([&] { return outputOn(); }, patience_ms)) return "the output did not come on";
    QTest::qWait(moment_ms);
    const auto guards = childrenOf(windowPid(), "ustor-guard");
    if (guards.size() == 1) m_guard = guards.front();
    const auto seconds = childrenOf(m_guard, "ustor-guard");
    if (seconds.size() == 1) m_second = seconds.front();
    return outputOn() && m_second > 0 ? QString() : "the output did not stay on: " + told();
}

QJsonObject Energised::tell(const QJsonObject& request) {
    const auto answer = hands.ask(request);
    return answer ? answer.value() : QJsonObject();
}

bool Energised::outputOn() {
    return tell({{"do", "state"}})["output"].toBool();
}

QByteArray Energised::told() {
    m_told += window.readAllStandardOutput();
    return m_told;
}

QStringList Energised::faults() {
    // Hands first: what a hand switches on after all was read as off, and nobody is left, is its own matter.
    return {"limits by hand", "trip by hand", "reset by hand", "window killed",
            "window stopped", "guard killed", "guard stopped", "second killed",
            "second stopped", "cable pulled", "supply deaf",   "supply talks"};
}

void Energised::killAll() {
    for (const int signal : {SIGSTOP, SIGKILL})
        for (const pid_t process : {guardPid(), secondPid(), windowPid()})
            if (process > 0) ::kill(process, signal);
}

void Energised::happen(const QString& fault) {
    const auto signal = [&fault](pid_t process) {
        if (process > 0) ::kill(process, fault.endsWith("killed") ? SIGKILL : SIGSTOP);
    };
    if (fault.startsWith("window"))
        signal(windowPid());
    else if (fault.startsWith("guard"))
        signal(guardPid());
    else if (fault.startsWith("second"))
        signal(secondPid());
    else if (fault == "cable pulled")
        tell({{"do", "unplug"}, {"what", "supply"}});
    else if (fault == "supply deaf")
        tell({{"do", "deaf"}, {"on", true}});
    else if (fault == "supply talks")
        tell({{"do", "talk"}, {"on", true}});
    else if (fault == "limits by hand")
        tell({{"do", "panel"}, {"command", "CURR 5"}}), tell({{"do", "panel"}, {"command", "VOLT 12"}});
    else if (fault == "trip by hand")
        tell({{"do", "panel"}, {"command", "VOLT:PROT 30"}});
    else if (fault == "reset by hand")
        tell({{"do", "panel"}, {"command", "*RST"}}), tell({{"do", "panel"}, {"command", "OUTP ON"}});
}

void Energised::mend() {
    tell({{"do", "plug"}, {"what", "supply"}});
    tell({{"do", "deaf"}, {"on", false}});
    tell({{"do", "talk"}, {"on", false}});
}

std::optional<int> Energised::offAfter_ms(int patience_ms) {
    QElapsedTimer clock;
    clock.start();
    if (!waitUntil([&] { return !outputOn(); }, patience_ms)) return std::nullopt;
    return static_cast<int>(clock.elapsed());
}

bool Energised::staysOff(int milliseconds) {
    return !waitUntil([&] { return outputOn(); }, milliseconds);
}

} // namespace ustor::testing
