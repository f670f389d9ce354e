#include "store/report.h"

#include "store/whole_file.h"

#include <QDateTime>
#include <set>
#include <vector>

namespace ustor {
namespace {

QString escaped(const std::string& s) {
    return QString::fromStdString(s).toHtmlEscaped();
}

/// Puts the page together, in the language that is asked for.
class Page {
  public:
    explicit Page(const ReportInput& input) : m_input(input), m_a(*input.assessment) {}

    QString text() {
        m_page = "<html><head><meta charset=\"utf-8\"></head><body "
                 "style=\"font-family:'Lato',sans-serif;font-size:9pt\">";
        m_page += "<h1>" + escaped(m_input.title) + "</h1><p>" +
                  html(say("Board: {board}", {{"board", m_a.state.board.name}})) + "<br>" +
                  html(say("Complaint: {complaint}", {{"complaint", m_a.state.complaint}})) + "</p>";
        m_page += "<p><b>" + html(outcome()) + "</b></p>";
        picture();
        rails();
        suspects();
        together();
        setAside();
        trail();
        m_page += "<p>" + html(say("Local rules and licensed practice come first.")) + "</p></body></html>";
        return m_page;
    }

  private:
    QString html(const Message& message) const { return escaped(message.text(m_input.translator)); }
    QString cell(const Message& message) const { return "<td>" + html(message) + "</td>"; }
    QString cell(const std::string& words) const { return "<td>" + escaped(words) + "</td>"; }

    Message outcome() const {
        if (m_a.state.closed) {
            const Closed& closed = *m_a.state.closed;
            const Message end = closed.fixed ? say("Fixed") : say("Closed without a fix");
            return joined({joined({end, verbatim(closed.culprit)}, ": "), verbatim(closed.text)}, ". ");
        }
        if (!m_a.culprit.empty()) return say("The short went with {part}.", {{"part", m_a.culprit}});
        return say("Still open.");
    }

    void picture() {
        if (m_input.picture.isEmpty()) return;
        m_page +=
            "<p><img width=\"640\" src=\"data:image/png;base64," + m_input.picture.toBase64() + "\"></p>";
    }

    void rails() {
        if (m_a.rails.empty()) return;
        m_page += "<h2>" + html(say("Rails")) + "</h2><table border=\"0\" cellpadding=\"3\">";
        for (const RailJudgement& r : m_a.rails)
            m_page += "<tr>" + cell(m_a.state.board.nets[r.net].name) + cell(r.reading) +
                      cell(labelOf(r.ruling.state)) + cell(r.ruling.rule) + "</tr>";
        m_page += "</table>";
    }

    void suspects() {
        if (m_a.suspects.empty()) return;
        m_page +=
            "<h2>" + html(say("Suspects")) + "</h2><table border=\"0\" cellpadding=\"3\" width=\"100%\"><tr>";
        for (const Message& head : {say("Part"), say("Kind"), say("Odds"), say("Why")})
            m_page += "<th align=\"left\">" + html(head) + "</th>";
        m_page += "</tr>";
        int shown = 0;
        for (const Suspect& s : m_a.suspects) {
            constexpr int most = 6;
            if (s.part < 0 || shown++ >= most) continue;
            const Part& part = m_a.state.board.parts[s.part];
            std::vector<Message> reasons;
            if (s.cleared) reasons.push_back(say("cleared"));
            if (s.off && !s.cleared) reasons.push_back(say("off"));
            for (const Weight& e : s.evidence)
                reasons.push_back(*e.what);
            m_page +=
                "<tr>" + cell(part.designator) + cell(labelOf(part.partClass)) +
                QString("<td align=\"right\">%1 %</td>").arg(100 * s.odds, 0, 'f', s.odds < 0.1 ? 1 : 0) +
                cell(joined(reasons, "; ")) + "</tr>";
        }
        m_page += "</table>";
    }

    void together() {
        if (m_a.together.empty()) return;
        m_page += "<h2>" + html(say("Along with it")) + "</h2><ul>";
        for (const Together& t : m_a.together) {
            const std::string& part = m_a.state.board.parts[t.part].designator;
            m_page += "<li>" +
                      html(t.replace ? say("{part}: replace, {why}", {{"part", part}, {"why", t.why}})
                                     : say("{part}: check, {why}", {{"part", part}, {"why", t.why}})) +
                      "</li>";
        }
        m_page += "</ul>";
    }

    void setAside() {
        if (m_a.setAside.empty()) return;
        m_page += "<h2>" + html(say("Set aside, or to be looked at")) + "</h2><ul>";
        for (const SetAside& each : m_a.setAside)
            m_page += "<li>" + html(each.why) + "</li>";
        m_page += "</ul>";
    }

    void trail() {
        m_page += "<h2>" + html(say("What was done")) + "</h2><table border=\"0\" cellpadding=\"2\">";
        const std::set<long> struck = struckFacts(*m_input.facts);
        for (const Fact& fact : *m_input.facts) {
            if (std::holds_alternative<Struck>(fact.body)) continue;
            const QString when = QDateTime::fromMSecsSinceEpoch(static_cast<qint64>(fact.time_s * 1000))
                                     .toString("yyyy-MM-dd HH:mm");
            const QString line = html(sentenceOn(m_a.state.board, fact.body));
            m_page += "<tr>" + cell(when.toStdString()) + cell(labelOf(stageOf(fact.body))) + "<td>" +
                      (struck.contains(fact.id) ? "<s>" + line + "</s>" : line) + "</td></tr>";
        }
        m_page += "</table>";
    }

    const ReportInput& m_input;
    const Assessment& m_a;
    QString m_page;
};

} // namespace

QString reportHtml(const ReportInput& input) {
    return Page(input).text();
}

Outcome writeReportHtml(const ReportInput& input, const std::filesystem::path& file) {
    return writeWhole(file, reportHtml(input).toStdString());
}

} // namespace ustor
