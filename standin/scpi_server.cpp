#include "standin/scpi_server.h"

#include <QRegularExpression>
#include <QTcpSocket>
#include <utility>

namespace ustor::standin {

ScpiServer::ScpiServer(QString identity, QObject* parent) : QObject(parent), m_identity(std::move(identity)) {
    connect(&m_server, &QTcpServer::newConnection, this, &ScpiServer::accept);
    addCommon();
}

void ScpiServer::setTalking(bool talks) {
    m_talk.disconnect();
    connect(&m_talk, &QTimer::timeout, this, [this] {
        constexpr int lines = 2000;
        constexpr qint64 mostWaiting = 1 << 20;
        const QByteArray noise = QByteArray("0.25\n").repeated(lines);
        for (QTcpSocket* socket : std::as_const(m_sockets))
            if (socket->bytesToWrite() < mostWaiting) socket->write(noise);
    });
    talks ? m_talk.start(0) : m_talk.stop();
}

bool ScpiServer::listen() {
    return m_server.listen(QHostAddress::LocalHost, 0);
}

QString ScpiServer::listenOnSerial() {
    m_serial = std::make_unique<SerialLine>();
    connect(m_serial.get(), &SerialLine::line, this, [this](const QByteArray& line) {
        if (m_plugged) takeLine(line, [this](const QByteArray& bytes) { m_serial->write(bytes); });
    });
    return m_serial->open();
}

void ScpiServer::setPlugged(bool plugged) {
    m_plugged = plugged;
    if (!plugged)
        for (QTcpSocket* socket : std::as_const(m_sockets))
            socket->abort();
}

void ScpiServer::accept() {
    while (QTcpSocket* socket = m_server.nextPendingConnection()) {
        if (!m_plugged) {
            socket->abort();
            socket->deleteLater();
            continue;
        }
        m_sockets.append(socket);
        connect(socket, &QTcpSocket::readyRead, this, [this, socket] {
            while (socket->canReadLine())
                takeLine(socket->readLine(), [socket](const QByteArray& bytes) { socket->write(bytes); });
        });
        connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
            m_sockets.removeAll(socket);
            socket->deleteLater();
        });
    }
}

void ScpiServer::takeLine(const QByteArray& line, const Reply& reply) {
    if (m_deaf) return;
    m_before();
    QStringList answers;
    for (const QString& message : QString::fromLatin1(line).trimmed().split(';', Qt::SkipEmptyParts)) {
        const QString answer = execute(message.trimmed());
        if (!answer.isNull()) answers << answer;
    }
    if (!answers.isEmpty()) reply(answers.join(';').toLatin1() + '\n');
}

bool ScpiServer::matches(const QString& pattern, const QString& header) {
    // "[SOURce:]VOLTage[:LEVel]" becomes an expression: capitals are the short form, brackets may be left
    // out.
    static QHash<QString, QRegularExpression> known;
    auto found = known.find(pattern);
    if (found == known.end()) {
        QString expression;
        static const QRegularExpression node("(\\[)?(:)?([A-Za-z*]+)(\\])?(:)?");
        auto all = node.globalMatch(pattern);
        while (all.hasNext()) {
            const auto m = all.next();
            QString word = m.captured(3), shortForm;
            for (const QChar c : word)
                if (c.isUpper() || c == '*') shortForm += c;
            const QString either =
                QString("(?:%1|%2)")
                    .arg(QRegularExpression::escape(shortForm), QRegularExpression::escape(word));
            const QString before = m.captured(2).isEmpty() ? "" : ":",
                          after = m.captured(5).isEmpty() ? "" : ":";
            const bool optional = !m.captured(1).isEmpty(), closed = !m.captured(4).isEmpty();
            // "[:LEVel]:" closes before the colon, "[SOURce:]" after it.
            if (!optional)
                expression += before + either + after;
            else if (closed)
                expression += "(?:" + before + either + ")?" + after;
            else
                expression += "(?:" + before + either + after + ")?";
        }
        found = known.insert(
            pattern, QRegularExpression("^:?" + expression + "$", QRegularExpression::CaseInsensitiveOption));
    }
    return found->match(header).hasMatch();
}

QString ScpiServer::execute(const QString& message) {
    const auto blank = message.indexOf(QRegularExpression("\\s"));
    QString header = blank < 0 ? message : message.left(blank);
    const QString rest = blank < 0 ? QString() : message.mid(blank + 1).trimmed();
    const bool query = header.endsWith('?');
    if (query) header.chop(1);
    for (const Command& command : m_commands)
        if (command.query == query && matches(command.pattern, header)) {
            Arguments arguments;
            for (const QString& a : rest.split(',', Qt::SkipEmptyParts))
                arguments << a.trimmed();
            const QString answer = command.handler(arguments);
            return query ? (answer.isNull() ? QString("") : answer) : QString();
        }
    pushError(-113, "Undefined header");
    return {};
}

void ScpiServer::on(const QString& pattern, Handler handler) {
    const bool query = pattern.endsWith('?');
    m_commands.push_back({query ? pattern.chopped(1) : pattern, query, std::move(handler)});
}

void ScpiServer::pushError(int code, const QString& text) {
    constexpr std::size_t depth = 16;
    if (m_errors.size() >= depth) {
        m_errors.back() = "-350,\"Queue overflow\"";
        return;
    }
    m_errors.push_back(QString("%1,\"%2\"").arg(code).arg(text));
    m_eventStatus |= code <= -400 ? 4 : code <= -300 ? 8 : code <= -200 ? 16 : 32;
}

bool ScpiServer::number(const Arguments& arguments, double low, double high, double& value) {
    if (arguments.isEmpty()) return pushError(-109, "Missing parameter"), false;
    QString text = arguments.first();
    static const QRegularExpression unit("[VvAa]$");
    text.remove(unit);
    bool ok = false;
    const double number = text.toDouble(&ok);
    if (!ok) return pushError(-104, "Data type error"), false;
    if (number < low || number > high) return pushError(-222, "Data out of range"), false;
    value = number;
    return true;
}

bool ScpiServer::boolean(const Arguments& arguments, bool& value) {
    if (arguments.isEmpty()) return pushError(-109, "Missing parameter"), false;
    const QString text = arguments.first().toUpper();
    if (text != "ON" && text != "OFF" && text != "1" && text != "0")
        return pushError(-224, "Illegal parameter value"), false;
    value = text == "ON" || text == "1";
    return true;
}

void ScpiServer::addCommon() {
    on("*IDN?", [this](const Arguments&) { return m_identity; });
    on("*RST", [this](const Arguments&) {
        reset();
        return QString();
    });
    on("*CLS", [this](const Arguments&) {
        m_errors.clear();
        m_eventStatus = 0;
        return QString();
    });
    on("*ESE", [this](const Arguments& a) {
        double v = 0;
        if (number(a, 0, 255, v)) m_eventEnable = static_cast<int>(v);
        return QString();
    });
    on("*ESE?", [this](const Arguments&) { return QString::number(m_eventEnable); });
    on("*ESR?", [this](const Arguments&) { return QString::number(std::exchange(m_eventStatus, 0)); });
    on("*SRE", [this](const Arguments& a) {
        double v = 0;
        if (number(a, 0, 255, v)) m_requestEnable = static_cast<int>(v);
        return QString();
    });
    on("*SRE?", [this](const Arguments&) { return QString::number(m_requestEnable); });
    on("*STB?", [this](const Arguments&) {
        const int byte = (m_errors.empty() ? 0 : 4) | ((m_eventStatus & m_eventEnable) ? 32 : 0);
        return QString::number(byte | ((byte & m_requestEnable) ? 64 : 0));
    });
    on("*OPC", [this](const Arguments&) {
        m_eventStatus |= 1;
        return QString();
    });
    on("*OPC?", [](const Arguments&) { return QString("1"); });
    on("*WAI", [](const Arguments&) { return QString(); });
    on("*TST?", [](const Arguments&) { return QString("0"); });
    on("SYSTem:ERRor[:NEXT]?", [this](const Arguments&) {
        if (m_errors.empty()) return QString("0,\"No error\"");
        QString error = m_errors.front();
        m_errors.pop_front();
        return error;
    });
    on("SYSTem:VERSion?", [](const Arguments&) { return QString("1999.0"); });
}

} // namespace ustor::standin
