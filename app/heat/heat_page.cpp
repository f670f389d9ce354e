#include "app/heat/heat_page.h"

#include "app/heat/course_chart.h"
#include "app/heat/heat_canvas.h"
#include "app/look.h"
#include "diagnosis/heat_evidence.h"
#include "thermal/emissivity.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QThread>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}

QString wordsOf(Repair repair) {
    switch (repair) {
    case Repair::Frozen:
        return HeatPage::tr("frozen pictures left out");
    case Repair::Motion:
        return HeatPage::tr("camera's motion taken back");
    case Repair::Common:
        return HeatPage::tr("jumps and drift taken out");
    case Repair::Passing:
        return HeatPage::tr("hands and tools left out");
    case Repair::Clocks:
        return HeatPage::tr("clocks brought together");
    case Repair::Bending:
        return HeatPage::tr("hot-air heat bends the ground");
    case Repair::Restless:
        return HeatPage::tr("restless places count less");
    }
    return {};
}

} // namespace

HeatPage::HeatPage(QWidget* parent)
    : QWidget(parent), m_canvas(new HeatCanvas), m_course(new CourseChart(tr("Course of the spot"))),
      m_profile(new CourseChart(tr("Along the line"))), m_recordings(new QComboBox), m_against(new QComboBox),
      m_hold(new QCheckBox(tr("hold the span"))), m_true(new QCheckBox(tr("rise of the surface itself"))),
      m_told(new QLabel), m_export(new QPushButton(tr("Export ..."))) {
    auto* charts = new QHBoxLayout;
    charts->addWidget(m_course, 1);
    charts->addWidget(m_profile, 1);
    charts->addWidget(repairs());
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 0, 8, 0);
    column->setSpacing(2);
    column->addWidget(topRow());
    column->addWidget(choices());
    column->addWidget(m_canvas, 1);
    column->addWidget(m_told);
    column->addLayout(charts);
    m_told->setFont(Look::small());
    m_told->setWordWrap(true);
    m_told->setObjectName("repairsTold");
    connect(m_canvas, &HeatCanvas::spotMoved, this, &HeatPage::refreshSpot);
    connect(m_canvas, &HeatCanvas::lineMoved, this, &HeatPage::refreshLine);
    connect(m_recordings, &QComboBox::activated, this, &HeatPage::load);
    connect(m_against, &QComboBox::activated, this, &HeatPage::load);
    connect(m_true, &QCheckBox::toggled, this, &HeatPage::refresh);
    connect(m_hold, &QCheckBox::toggled, this, [this](bool held) {
        m_canvas->holdSpan(held);
        refresh();
    });
    connect(m_export, &QPushButton::clicked, this, &HeatPage::exportAll);
}

HeatPage::~HeatPage() {
    for (QThread* thread : std::as_const(m_threads)) {
        thread->wait();
        delete thread;
    }
}

QWidget* HeatPage::topRow() {
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 8, 0);
    const QString names[] = {tr("Still (1)"), tr("First instant (2)"), tr("Amplitude (3)"), tr("Delay (4)"),
                             tr("Odds (5)")};
    for (int i = 0; i < static_cast<int>(std::size(names)); ++i) {
        auto* button = new QPushButton(names[i]);
        button->setProperty("plain", true);
        button->setFont(Look::small());
        button->setFocusPolicy(Qt::NoFocus);
        connect(button, &QPushButton::clicked, this, [this, i] { showMap(static_cast<Shown>(i)); });
        m_words << button;
        row->addWidget(button);
    }
    row->addStretch(1);
    m_export->setProperty("plain", true);
    m_export->setFont(Look::small());
    row->addWidget(m_export);
    return line;
}

/// Which recording, against which other, and how it is shown.
QWidget* HeatPage::choices() {
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 8, 0);
    m_recordings->setAccessibleName(tr("Recording"));
    m_against->setAccessibleName(tr("Against another recording"));
    m_hold->setObjectName("holdSpan");
    m_true->setToolTip(
        tr("Divided by what the surface shows of its warmth; bare metal shows the room and is left out"));
    for (QComboBox* box : {m_recordings, m_against}) {
        box->setFont(Look::small());
        row->addWidget(box, 1);
    }
    for (QCheckBox* box : {m_hold, m_true}) {
        box->setFont(Look::small());
        row->addWidget(box);
    }
    return line;
}

/// Each repair can be left out, to see what it does.
QWidget* HeatPage::repairs() {
    auto* side = new QWidget;
    auto* grid = new QGridLayout(side);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(2);
    auto* heading = new QLabel(tr("Mended; untick to see what it does"));
    heading->setFont(Look::bold(Look::small()));
    grid->addWidget(heading, 0, 0, 1, 2);
    constexpr int rows = 4;
    for (const Repair repair : allRepairs()) {
        auto* box = new QCheckBox(wordsOf(repair));
        box->setFont(Look::small());
        box->setChecked(true);
        box->setObjectName(text(wordOf(repair)));
        connect(box, &QCheckBox::toggled, this, &HeatPage::load);
        const int at = static_cast<int>(m_repairs.size());
        grid->addWidget(box, 1 + at % rows, at / rows);
        m_repairs << box;
    }
    return side;
}

void HeatPage::setCase(const Board* board, const std::vector<Choice>& recordings,
                       const std::array<std::optional<Registration>, 2>& registrations) {
    m_board = board;
    const bool same = std::equal(recordings.begin(), recordings.end(), m_choices.begin(), m_choices.end(),
                                 [](const Choice& a, const Choice& b) { return a.folder == b.folder; });
    m_registrations = registrations;
    if (!board || !same) ++m_round; // what is still thought about belongs to another list
    if (same) return;
    m_choices = recordings;
    m_study.reset();
    m_other.reset();
    m_recordings->clear();
    m_against->clear();
    m_against->addItem(tr("against nothing"));
    for (const Choice& choice : m_choices) {
        m_recordings->addItem(choice.name);
        m_against->addItem(tr("minus %1").arg(choice.name));
    }
    if (isVisible()) begin();
}

void HeatPage::begin() {
    setFocusProxy(m_canvas);
    showMap(m_shown);
    if (m_choices.empty())
        m_canvas->say(tr("No injection was recorded in this case yet. The next one will stand here."));
    else if (!m_study)
        load();
}

LeftOut HeatPage::leftOut() const {
    LeftOut out;
    for (qsizetype i = 0; i < m_repairs.size(); ++i)
        if (!m_repairs[i]->isChecked()) out.insert(allRepairs()[static_cast<std::size_t>(i)]);
    return out;
}

const std::optional<Registration>& HeatPage::registration() const {
    const int at = m_recordings->currentIndex();
    const bool bottom = at >= 0 && m_choices[static_cast<std::size_t>(at)].side == Side::Bottom;
    return m_registrations[bottom];
}

/// Reads and thinks in a thread of its own; what is asked for meanwhile comes after it.
void HeatPage::load() {
    const int at = m_recordings->currentIndex(), other = m_against->currentIndex() - 1;
    if (at < 0) return;
    ++m_round;
    m_study.reset();
    m_other.reset();
    m_canvas->say(tr("Looking at the recording ..."));
    const auto ask = [this](const Choice& choice, bool against) {
        auto* thread = QThread::create([this, round = m_round, folder = choice.folder, against,
                                        out = leftOut(), where = m_registrations[choice.side == Side::Bottom],
                                        thickness = m_board ? m_board->thickness_mm : 1.6] {
            auto study = std::make_shared<Result<HeatStudy>>(studyRecording(folder, where, thickness, out));
            QMetaObject::invokeMethod(this, [this, round, study, against] { take(round, *study, against); });
        });
        m_threads << thread;
        connect(thread, &QThread::finished, this, [this, thread] {
            m_threads.removeAll(thread);
            thread->deleteLater();
        });
        thread->start();
    };
    ask(m_choices[static_cast<std::size_t>(at)], false);
    if (other >= 0) ask(m_choices[static_cast<std::size_t>(other)], true);
}

void HeatPage::take(int round, const Result<HeatStudy>& study, bool against) {
    if (round != m_round) return;
    if (!study) return m_canvas->say(text(study.error().text()));
    (against ? m_other : m_study) = std::make_shared<const HeatStudy>(study.value());
    if (!m_study) return;
    tellRepairs();
    QStringList names;
    for (const LocatedSource& s : m_study->located.sources)
        names << nameOf(s);
    m_canvas->setSources(m_study->located.sources, names);
    m_canvas->setBoard(m_board, registration());
    refresh();
}

void HeatPage::tellRepairs() {
    const LocateResult& located = m_study->located;
    QStringList done{tr("Verdict: %1.").arg(text(wordOf(located.verdict)))};
    for (QCheckBox* box : std::as_const(m_repairs)) {
        box->setFont(Look::small());
        box->setToolTip(tr("found nothing to do"));
    }
    for (const RepairNote& note : located.repairs) {
        done << text(note.said) + ".";
        for (QCheckBox* box : std::as_const(m_repairs))
            if (box->objectName() == text(wordOf(note.repair))) {
                box->setFont(Look::bold(Look::small())); // it did something
                box->setToolTip(text(note.said));
            }
    }
    for (const std::string& said : located.undone)
        done << tr("Not mended: %1.").arg(text(said));
    for (const std::string& said : located.notes)
        done << text(said) + ".";
    m_told->setText(done.join(" "));
}

/// The part that a place lies on, or how clear it is.
QString HeatPage::nameOf(const LocatedSource& source) const {
    const QString sigmas = tr("%1 sigma").arg(source.spot.snr, 0, 'f', 0);
    if (!m_board || !source.board) return sigmas;
    const HeatSpot spot{*source.board, source.sigma_mm, source.spot.snr, 0, 0};
    for (const Part& part : m_board->parts)
        if (part.side == m_study->info.side && spotOnPart(spot, part))
            return text(part.designator) + ", " + sigmas;
    return sigmas;
}

cv::Mat HeatPage::valuesShown(QString& unit, double& low, double& high) const {
    if (m_shown == Still) {
        unit = QStringLiteral("\u00b0C");
        cv::minMaxLoc(m_study->still, &low, &high);
        return m_study->still;
    }
    const auto index = static_cast<std::size_t>(m_shown - FirstInstant);
    const HeatMap& map = m_study->maps[index];
    unit = text(map.unit);
    low = map.low;
    high = map.high;
    // A spot is some pixels wide: smoothed by less than that, it stands out of the noise of single pixels.
    constexpr double smooth_px = 1;
    cv::Mat values = map.values;
    if (map.unit == "K/W") {
        cv::GaussianBlur(map.values, values, {}, smooth_px);
        const double noise = map.sigma / (2 * std::sqrt(std::numbers::pi) * smooth_px);
        double top = 0;
        cv::minMaxLoc(values, nullptr, &top);
        constexpr double least = 6;
        high = std::max(top, least * noise);
    }
    if (m_other && m_other->maps[index].values.size() == values.size()) {
        values = values - m_other->maps[index].values;
        low = -high; // what is gone shows as well as what is new
    }
    return m_true->isChecked() && map.unit == "K/W" ? asTrueRise(values) : values;
}

cv::Mat HeatPage::asTrueRise(const cv::Mat& values) const {
    if (!m_board || !registration()) return values;
    cv::Mat surface = emissivityMap(*m_board, *registration(), values.size()), out = values.clone();
    const double room_k = 273.15 + m_study->info.ambient_c;
    constexpr double blind = 0.3;
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const double e = surface.at<float>(y, x);
            out.at<float>(y, x) =
                e < blind ? std::numeric_limits<float>::quiet_NaN()
                          : static_cast<float>(out.at<float>(y, x) / shownShare(room_k, e, room_k));
        }
    return out;
}

void HeatPage::showMap(Shown shown) {
    m_shown = shown;
    for (qsizetype i = 0; i < m_words.size(); ++i)
        m_words[i]->setFont(i == shown ? Look::bold(Look::small()) : Look::small());
    refresh();
}

void HeatPage::refresh() {
    m_export->setEnabled(m_study != nullptr);
    if (!m_study) return;
    QString unit;
    double low = 0, high = 1;
    const cv::Mat values = valuesShown(unit, low, high);
    m_canvas->showMap(values, unit, low, high);
    refreshSpot();
    refreshLine();
}

void HeatPage::refreshSpot() {
    if (!m_study) return m_course->clear({});
    std::vector<double> course = m_study->courseAt(m_canvas->spot());
    std::vector<bool> on;
    const double most =
        m_study->watts.empty() ? 0 : *std::max_element(m_study->watts.begin(), m_study->watts.end());
    for (const double w : m_study->watts)
        on.push_back(w > most / 2 && most > 0);
    for (double& kelvin : course)
        kelvin *= 1e3;
    m_course->show(m_study->times_s, std::move(course), tr("s"), tr("mK"), std::move(on));
}

void HeatPage::refreshLine() {
    if (!m_study || !m_canvas->line())
        return m_profile->clear(tr("drag over the picture, or Enter at both ends"));
    QString unit;
    double low = 0, high = 1;
    const auto along =
        profileAlong(valuesShown(unit, low, high), m_canvas->line()->first, m_canvas->line()->second);
    std::vector<double> places;
    const auto& where = registration();
    const double mm = where ? 1 / where->pixelsPerMm(where->toBoard(m_canvas->line()->first)) : 1;
    for (std::size_t i = 0; i < along.size(); ++i)
        places.push_back(mm * static_cast<double>(i));
    m_profile->show(std::move(places), along, where ? tr("mm") : tr("px"), unit);
}

void HeatPage::exportAll() {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder for the maps"));
    if (folder.isEmpty() || !m_study) return;
    const auto written = exportMaps(*m_study, folder.toStdString());
    emit said(written ? tr("%1 files written to %2").arg(written.value().size()).arg(folder)
                      : text(written.error().text()));
}

void HeatPage::keyPressEvent(QKeyEvent* event) {
    const int number = event->key() - Qt::Key_1;
    if (number >= Still && number <= Odds) return showMap(static_cast<Shown>(number));
    QWidget::keyPressEvent(event);
}

} // namespace ustor
