#include "app/heat/heat_page.h"

#include "app/heat/course_chart.h"
#include "app/heat/heat_canvas.h"
#include "app/heat/repair_list.h"
#include "app/heat/still_row.h"
#include "app/look.h"
#include "app/words.h"
#include "diagnosis/heat_evidence.h"
#include "session/still_finding.h"
#include "thermal/emissivity.h"
#include "thermal/true_heat.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QThread>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// A spot is some pixels wide: smoothed by less than that, it stands out of the noise of single pixels.
/// `high`: the end of a span in which noise alone stays dark.
cv::Mat smoothed(const cv::Mat& rise, double sigma, double& high) {
    constexpr double smooth_px = 1, least = 6;
    cv::Mat values;
    cv::GaussianBlur(rise, values, {}, smooth_px);
    double top = 0;
    cv::minMaxLoc(values, nullptr, &top);
    high = std::max(top, least * sigma / (2 * std::sqrt(std::numbers::pi) * smooth_px));
    return values;
}

QString asSentence(const Message& said) {
    QString words = text(said) + ".";
    words[0] = words[0].toUpper();
    return words;
}

} // namespace

HeatPage::HeatPage(QWidget* parent)
    : QWidget(parent), m_canvas(new HeatCanvas), m_course(new CourseChart(tr("Course of the spot"))),
      m_profile(new CourseChart(tr("Along the line"))), m_recordings(new QComboBox), m_against(new QComboBox),
      m_brush(new QComboBox), m_stillRow(new StillRow), m_repairs(new RepairList),
      m_hold(new QCheckBox(tr("hold the span"))), m_true(new QCheckBox(tr("rise of the surface itself"))),
      m_told(new QLabel), m_export(new QPushButton(tr("Export ..."))) {
    auto* charts = new QHBoxLayout;
    charts->addWidget(m_course, 1);
    charts->addWidget(m_profile, 1);
    charts->addWidget(m_repairs);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 0, 8, 0);
    column->setSpacing(2);
    column->addWidget(topRow());
    column->addWidget(choices());
    column->addWidget(m_stillRow);
    column->addWidget(m_canvas, 1);
    column->addWidget(m_told);
    column->addLayout(charts);
    m_told->setFont(Look::small());
    m_told->setWordWrap(true);
    m_told->setObjectName("repairsTold");
    connect(m_canvas, &HeatCanvas::spotMoved, this, &HeatPage::refreshSpot);
    connect(m_canvas, &HeatCanvas::lineMoved, this, &HeatPage::refreshLine);
    connect(m_canvas, &HeatCanvas::lineDone, this, &HeatPage::stroke);
    m_stillRow->hide();
    connect(m_repairs, &RepairList::changed, this, &HeatPage::load);
    connect(m_stillRow, &StillRow::scaleGiven, this, &HeatPage::keepStillScale);
    connect(m_stillRow, &StillRow::findingWanted, this, &HeatPage::noteFinding);
    connect(m_stillRow, &StillRow::said, m_told, &QLabel::setText);
    connect(m_stillRow, &StillRow::placeWanted, this, [this](Side side) {
        if (m_study && m_study->isStill()) emit placeWanted(chosen()->folder, m_study->still, side);
    });
    connect(m_brush, &QComboBox::activated, this, [this](int brush) {
        if (brush > 0) m_true->setChecked(true);
        m_canvas->setFocus();
    });
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
    auto* add = new QPushButton(tr("Add stills ..."));
    add->setProperty("plain", true);
    add->setFont(Look::small());
    add->setToolTip(tr("16-bit pictures, tables of numbers, or pictures in colours with a scale bar"));
    connect(add, &QPushButton::clicked, this,
            [this] { addStills(QFileDialog::getOpenFileNames(this, tr("Still pictures"))); });
    row->addWidget(add);
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
    m_brush->setFont(Look::small());
    m_brush->setObjectName("surfaceBrush");
    m_brush->setAccessibleName(tr("Brush for surfaces"));
    m_brush->setToolTip(
        tr("Each line over the picture says what the surface there is; Backspace takes the last back"));
    m_brush->addItem(tr("no brush"));
    for (const Surface surface : allSurfaces())
        m_brush->addItem(tr("brush: %1").arg(text(labelOf(surface))));
    row->addWidget(m_brush);
    return line;
}

void HeatPage::setCase(const Board* board, const std::filesystem::path& folder,
                       const std::vector<Choice>& recordings,
                       const std::array<std::optional<Registration>, 2>& registrations) {
    m_board = board;
    const bool same = std::equal(recordings.begin(), recordings.end(), m_choices.begin(), m_choices.end(),
                                 [](const Choice& a, const Choice& b) { return a.folder == b.folder; });
    m_registrations = registrations;
    m_folder = folder;
    if (!board || !same) ++m_round; // what is still thought about belongs to another list
    m_choices = recordings;
    if (same) {
        if (m_study) showStudy(); // a still may have got its place
        return;
    }
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
        m_canvas->say(
            tr("No injection was recorded in this case yet. The next one will stand here; pictures of "
               "a camera without a cable come in by \"Add stills\"."));
    else if (!m_study)
        load();
}

const HeatPage::Choice* HeatPage::chosen() const {
    const int at = m_recordings->currentIndex();
    return at >= 0 ? &m_choices[static_cast<std::size_t>(at)] : nullptr;
}

Side HeatPage::side() const {
    const Choice* choice = chosen();
    return choice ? choice->side : Side::Top;
}

Painted::Over HeatPage::over() const {
    if (chosen() && chosen()->still) return Painted::Over::Stills;
    return side() == Side::Bottom ? Painted::Over::Bottom : Painted::Over::Top;
}

void HeatPage::showPainted(const CaseState& state) {
    for (const auto over : {Painted::Over::Top, Painted::Over::Bottom, Painted::Over::Stills}) {
        m_strokes[static_cast<std::size_t>(over)] = strokesOver(over, state);
        m_newestStrokes[static_cast<std::size_t>(over)] = newestStroke(over, state);
    }
    if (m_study) refresh();
}

/// Where the camera looked: what the recording was located with, or the still's own place. Of a stream that
/// goes on: where the camera looks now.
const std::optional<Registration>& HeatPage::registration() const {
    const Choice* choice = chosen();
    return choice && (choice->still || choice->place) ? choice->place
                                                      : m_registrations[side() == Side::Bottom];
}

void HeatPage::addStills(const QStringList& files) {
    if (files.isEmpty() || m_folder.empty()) return;
    std::vector<std::filesystem::path> paths;
    for (const QString& file : files)
        paths.emplace_back(file.toStdString());
    if (const auto taken = takeStillsIn(paths, m_folder); !taken) m_told->setText(text(taken.error()));
    emit stillsAdded();
}

/// A picture in colours tells its temperatures only with what its bar says.
void HeatPage::askAboutStill() {
    const bool still = chosen() && chosen()->still;
    m_stillRow->setVisible(still);
    if (!still) return;
    const bool scale = needsScale(chosen()->folder);
    m_stillRow->begin(scale, scale ? scaleOf(chosen()->folder) : std::nullopt, chosen()->place);
}

void HeatPage::keepStillScale(StillScale scale) {
    if (const auto kept = keepScale(chosen()->folder, scale); !kept) m_told->setText(text(kept.error()));
    m_canvas->setFocus();
    load();
}

/// A finished line is a stroke of the brush while there is one.
void HeatPage::stroke() {
    const int brush = m_brush->currentIndex();
    if (brush <= 0 || !m_canvas->line() || !m_study) return;
    emit noted(paintedOver(over(), {allSurfaces()[static_cast<std::size_t>(brush - 1)],
                                    m_canvas->line()->first, m_canvas->line()->second}));
}

/// Reads and thinks in a thread of its own; what is asked for meanwhile comes after it.
void HeatPage::load() {
    const int at = m_recordings->currentIndex(), other = m_against->currentIndex() - 1;
    if (at < 0) return;
    ++m_round;
    m_study.reset();
    m_other.reset();
    m_difference.reset();
    askAboutStill();
    m_canvas->say(tr("Looking at the recording ..."));
    const auto ask = [this](const Choice& choice, bool against) {
        auto* thread = QThread::create([this, round = m_round, folder = choice.folder, still = choice.still,
                                        against, out = m_repairs->leftOut(),
                                        where = m_registrations[choice.side == Side::Bottom],
                                        thickness = m_board ? m_board->thickness_mm : 1.6] {
            auto study = std::make_shared<Result<HeatStudy>>(
                still ? studyStill(folder) : studyRecording(folder, where, thickness, out));
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
    if (!study) return m_canvas->say(text(study.error()));
    (against ? m_other : m_study) = std::make_shared<const HeatStudy>(study.value());
    if (!m_study) return;
    m_canvas->say({});
    compareStills();
    showStudy();
}

/// All that follows from the study, and from where its camera looked.
void HeatPage::showStudy() {
    if (m_study->isStill()) askAboutStill();
    tellRepairs();
    for (qsizetype i = 0; i < m_words.size(); ++i) // of a still there is nothing else
        m_words[i]->setEnabled(i == Still || !m_study->isStill());
    m_repairs->setVisible(!m_study->isStill());
    if (m_study->isStill() && m_shown != Still) showMap(Still);
    const std::vector<LocatedSource> sources =
        m_difference ? warmerThere(*m_difference, registration() ? &*registration() : nullptr)
                     : m_study->located.sources;
    QStringList names;
    for (const LocatedSource& s : sources)
        names << nameOf(s, side());
    m_stillRow->offerFinding(m_difference && registration() && !sources.empty());
    m_canvas->setSources(sources, names);
    m_canvas->setBoard(m_board, registration());
    refresh();
}

void HeatPage::noteFinding() {
    if (!m_difference || !registration()) return;
    if (const auto finding =
            findingOf(*m_difference, *registration(),
                      std::filesystem::relative(chosen()->folder, m_folder).generic_string()))
        emit noted(*finding);
    m_stillRow->offerFinding(false);
}

/// What is warmer in one still than in another, with the spots that stand out of it.
void HeatPage::compareStills() {
    m_difference.reset();
    m_trouble.clear();
    if (!m_study->isStill() || !m_other || !m_other->isStill()) return;
    auto difference = stillDifference({m_study->still, m_study->stillStep_k, {}},
                                      {m_other->still, m_other->stillStep_k, {}});
    if (difference)
        m_difference = std::move(difference.value());
    else
        m_trouble = text(difference.error());
}

/// What was mended, what was not, what else to know.
QStringList HeatPage::told(const LocateResult& located) const {
    QStringList said;
    for (const RepairNote& note : located.repairs)
        said << asSentence(note.said);
    for (const Message& one : located.undone)
        said << tr("Not mended: %1.").arg(text(one));
    for (const Message& one : located.notes)
        said << asSentence(one);
    return said;
}

void HeatPage::showLive(const LiveHeat& heat, Side side) {
    if (heat.rise_k_per_w.empty())
        return m_canvas->say(tr("The injection has begun; the map comes with the frames."));
    ++m_round; // a recording that is still read comes too late
    m_study.reset();
    m_other.reset();
    m_difference.reset();
    m_canvas->say({});
    QStringList names;
    for (const LocatedSource& source : heat.located.sources)
        names << nameOf(source, side);
    m_canvas->setSources(heat.located.sources, names);
    m_canvas->setBoard(m_board, m_registrations[side == Side::Bottom]);
    double high = 1;
    const cv::Mat values = smoothed(heat.rise_k_per_w, heat.sigma_k_per_w, high);
    m_canvas->showMap(values, heat.located.switchedFromFrames ? "K" : "K/W", 0, high);
    m_told->setText(
        tr("Live, %1 s: %2. ").arg(heat.seconds, 0, 'f', 0).arg(text(labelOf(heat.located.verdict))) +
        told(heat.located).join(" "));
    refreshSpot();
}

void HeatPage::tellRepairs() {
    LocateResult located = m_study->located;
    QStringList done;
    if (!m_trouble.isEmpty()) done << m_trouble;
    if (!m_study->isStill()) done << tr("Verdict: %1.").arg(text(labelOf(located.verdict)));
    if (m_difference) {
        if (m_difference->spots.empty()) done << tr("Nothing is clearly warmer than before.");
        located.notes.insert(located.notes.end(), m_difference->notes.begin(), m_difference->notes.end());
    }
    m_repairs->tell(located.repairs);
    done << told(located);
    m_told->setText(done.join(" "));
}

/// The part that a place lies on, or how clear it is.
QString HeatPage::nameOf(const LocatedSource& source, Side side) const {
    QString sigmas = tr("%1 sigma").arg(source.spot.snr, 0, 'f', 0);
    if (!m_board || !source.board) return sigmas;
    const HeatSpot spot{*source.board, source.sigma_mm, source.spot.snr, 0, 0};
    for (const Part& part : m_board->parts)
        if (part.side == side && spotOnPart(spot, part)) return text(part.designator) + ", " + sigmas;
    return sigmas;
}

cv::Mat HeatPage::valuesShown(QString& unit, double& low, double& high) const {
    if (m_difference) {
        unit = QStringLiteral("K");
        cv::minMaxLoc(m_difference->rise_k, nullptr, &high, nullptr, nullptr,
                      m_difference->rise_k == m_difference->rise_k);
        high = std::max(high, 4 * m_difference->noise_k);
        low = -high / 4;
        return m_difference->rise_k;
    }
    if (m_shown == Still || m_study->isStill()) {
        unit = QStringLiteral("\u00b0C");
        cv::minMaxLoc(m_study->still, &low, &high, nullptr, nullptr, m_study->still == m_study->still);
        return m_true->isChecked() ? trueCelsius(m_study->still, surfaceMap(), m_study->info.ambient_c)
                                   : m_study->still;
    }
    const auto index = static_cast<std::size_t>(m_shown - FirstInstant);
    const HeatMap& map = m_study->maps[index];
    unit = text(map.unit);
    low = map.low;
    high = map.high;
    cv::Mat values = map.values;
    if (map.unit == "K/W") values = smoothed(map.values, map.sigma, high);
    if (m_other && !m_other->isStill() && m_other->maps[index].values.size() == values.size()) {
        values = values - m_other->maps[index].values;
        low = -high; // what is gone shows as well as what is new
    }
    return m_true->isChecked() && map.unit == "K/W" ? trueRise(values, surfaceMap(), m_study->info.ambient_c)
                                                    : values;
}

/// By the board's data where the camera's place is known, and by what was painted over it.
cv::Mat HeatPage::surfaceMap() const {
    const cv::Size size = m_study->still.size();
    cv::Mat surface = m_board && registration()
                          ? emissivityMap(*m_board, *registration(), size)
                          : cv::Mat(size, CV_32FC1, cv::Scalar(emissivityOf(Surface::Mask)));
    paintSurfaces(surface, surfaces());
    return surface;
}

void HeatPage::tell(const QString& words) {
    m_told->setText(words);
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
    m_told->setText(written ? tr("%1 files written to %2").arg(written.value().size()).arg(folder)
                            : text(written.error()));
}

void HeatPage::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Backspace && m_brush->currentIndex() > 0)
        if (const long newest = m_newestStrokes[static_cast<std::size_t>(over())]; newest > 0)
            return emit takeBackWanted(newest);
    const int number = event->key() - Qt::Key_1;
    if (number >= Still && number <= Odds) return showMap(static_cast<Shown>(number));
    QWidget::keyPressEvent(event);
}

} // namespace ustor
