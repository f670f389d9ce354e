#include "store/report.h"

#include <QBuffer>
#include <QDateTime>
#include <QFile>
#include <QPageSize>
#include <QPdfWriter>
#include <QSaveFile>
#include <QTextDocument>

namespace ustor {
namespace {

QString html(const std::string& s) {
    return QString::fromStdString(s).toHtmlEscaped();
}

QString pictureTag(const QImage& picture) {
    if (picture.isNull()) return {};
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    picture.save(&buffer, "PNG");
    return "<p><img width=\"640\" src=\"data:image/png;base64," + png.toBase64() + "\"></p>";
}

QString outcome(const Assessment& a) {
    if (a.state.closed) {
        const QString what = a.state.closed->fixed ? "Fixed" : "Closed without a fix";
        return what + (a.state.closed->culprit.empty() ? "" : ": " + html(a.state.closed->culprit)) +
               (a.state.closed->text.empty() ? "" : ". " + html(a.state.closed->text));
    }
    if (!a.culprit.empty()) return "The short went with " + html(a.culprit) + ".";
    return "Still open.";
}

QString suspectTable(const Assessment& a) {
    if (a.suspects.empty()) return {};
    QString rows;
    int shown = 0;
    for (const Suspect& s : a.suspects) {
        constexpr int most = 6;
        if (s.part < 0 || shown++ >= most) continue;
        const Part& part = a.state.board.parts[s.part];
        QString reasons;
        for (const Evidence& e : s.evidence)
            reasons += (reasons.isEmpty() ? "" : "; ") + html(e.what);
        rows += QString("<tr><td>%1</td><td>%2</td><td align=\"right\">%3 %</td><td>%4%5</td></tr>")
                    .arg(html(part.designator), html(std::string(wordOf(part.partClass))))
                    .arg(100 * s.odds, 0, 'f', s.odds < 0.1 ? 1 : 0)
                    .arg(s.cleared ? "cleared; " : "", reasons);
    }
    return "<h2>Suspects</h2><table border=\"0\" cellpadding=\"3\" width=\"100%\"><tr><th "
           "align=\"left\">Part</th><th align=\"left\">Kind</th><th align=\"right\">Odds</th><th "
           "align=\"left\">Why</th></tr>" +
           rows + "</table>";
}

} // namespace

QString reportHtml(const ReportInput& input) {
    const Assessment& a = *input.assessment;
    QString page = "<html><head><meta charset=\"utf-8\"></head><body "
                   "style=\"font-family:'Lato',sans-serif;font-size:9pt\">";
    page += "<h1>" + html(input.title) + "</h1><p>Board: " + html(a.state.board.name) +
            "<br>Complaint: " + html(a.state.complaint) + "</p>";
    page += "<p><b>" + outcome(a) + "</b></p>" + pictureTag(input.picture);
    if (!a.rails.empty()) {
        page += "<h2>Rails</h2><table border=\"0\" cellpadding=\"3\">";
        for (const RailJudgement& r : a.rails)
            page += "<tr><td>" + html(a.state.board.nets[r.net].name) + "</td><td>" + html(r.reading) +
                    "</td><td>" + html(std::string(wordOf(r.ruling.state))) + "</td><td>" +
                    html(r.ruling.rule) + "</td></tr>";
        page += "</table>";
    }
    page += suspectTable(a);
    if (!a.together.empty()) {
        page += "<h2>Along with it</h2><ul>";
        for (const Together& t : a.together)
            page += "<li>" + html(a.state.board.parts[t.part].designator) +
                    (t.replace ? ": replace, " : ": check, ") + html(t.why) + "</li>";
        page += "</ul>";
    }
    page += "<h2>What was done</h2><table border=\"0\" cellpadding=\"2\">";
    for (const Fact& fact : *input.facts) {
        if (std::holds_alternative<Struck>(fact.body)) continue;
        const bool struck = isStruck(*input.facts, fact.id);
        const QString when = QDateTime::fromMSecsSinceEpoch(static_cast<qint64>(fact.time_s * 1000))
                                 .toString("yyyy-MM-dd HH:mm");
        const QString line = html(sentenceOn(a.state.board, fact.body));
        page += "<tr><td>" + when + "</td><td>" + html(std::string(wordOf(stageOf(fact.body)))) +
                "</td><td>" + (struck ? "<s>" + line + "</s>" : line) + "</td></tr>";
    }
    return page + "</table><p>Local rules and licensed practice come first.</p></body></html>";
}

Outcome writeReportHtml(const ReportInput& input, const std::filesystem::path& file) {
    QSaveFile out(QString::fromStdString(file.string()));
    const QByteArray page = reportHtml(input).toUtf8();
    if (!out.open(QIODevice::WriteOnly) || out.write(page) != page.size() || !out.commit())
        return Error{"the report cannot be written: " + out.errorString().toStdString(), file.string(),
                     "the case is unchanged"};
    return Done{};
}

Outcome writeReportPdf(const ReportInput& input, const std::filesystem::path& file) {
    const QString name = QString::fromStdString(file.string());
    {
        QPdfWriter writer(name);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setTitle(QString::fromStdString(input.title));
        writer.setCreator("Ustor");
        writer.setResolution(96);
        QTextDocument document;
        document.setHtml(reportHtml(input));
        document.setPageSize(QSizeF(writer.width(), writer.height()));
        document.print(&writer);
    }
    QFile written(name);
    if (!written.open(QIODevice::ReadOnly) || !written.read(5).startsWith("%PDF"))
        return Error{"the report cannot be written", file.string(), "the case is unchanged"};
    return Done{};
}

} // namespace ustor
