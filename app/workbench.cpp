#include "app/workbench.h"

#include "app/along_panel.h"
#include "app/entry_bar.h"
#include "app/hand_switching.h"
#include "app/heat/heat_page.h"
#include "app/heat_view.h"
#include "app/injection_desk.h"
#include "app/look.h"
#include "app/next_panel.h"
#include "app/pages.h"
#include "app/part_line.h"
#include "app/path_view.h"
#include "app/plate/plate_view.h"
#include "app/still_desk.h"
#include "app/strip.h"
#include "app/survey_panel.h"
#include "app/suspect_list.h"
#include "app/tour_panel.h"
#include "app/trail_panel.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "rail/handy_place.h"
#include "session/deed.h"
#include "session/injection_work.h"
#include "session/sleep_inhibitor.h"
#include "thermal/recording_reader.h"

#include <QBuffer>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace ustor {
namespace {

constexpr int pageBelow = 170; ///< height of a view's own page below the board

/// On a screen too small for it a page is scrolled, by the keys as well: what has the focus is brought into
/// view.
QScrollArea* scrolled(QWidget* page) {
    auto* scroll = new QScrollArea;
    scroll->setWidget(page);
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setMinimumWidth(320);
    return scroll;
}

} // namespace

Workbench::Workbench(QWidget* parent)
    : QWidget(parent), m_awake(std::make_unique<SleepInhibitor>()), m_trail(new TrailPanel),
      m_board(new PlateView), m_heat(new HeatView), m_next(new NextPanel), m_suspects(new SuspectList),
      m_strip(new Strip), m_entry(new EntryBar), m_rails(new QLabel), m_marked(new PartLine),
      m_markedRoom(new QWidget), m_middle(new Pages), m_below(new Pages), m_survey(new SurveyPanel),
      m_tour(new TourPanel), m_path(new PathView), m_along(new AlongPanel), m_heatMaps(new HeatPage),
      m_desk(new InjectionDesk(*m_next, *m_heat, *m_board, this)),
      m_stills(new StillDesk(*m_next, *m_heat, *m_board, this)), m_poll(new QTimer(this)) {
    layOut();
    connectParts();
    connectViews();
    connect(m_awake.get(), &SleepInhibitor::aboutToSleep, this, &Workbench::switchOff);
    connect(&m_report, &ReportFile::done, this,
            [this](const std::filesystem::path& file, const Outcome& outcome) {
                m_entry->say(outcome ? tr("Report written: %1").arg(text(file.string()))
                                     : text(outcome.error()));
            });
    connect(m_awake.get(), &SleepInhibitor::cannot, this, [this](const QString& why) {
        m_entry->say(tr("This machine may fall asleep while the output is on: keep it awake. (%1)").arg(why));
    });
}

Workbench::~Workbench() {
    closeCase();
}

/// As the window grows the board takes what is more than trail and judgement need.
void Workbench::layOut() {
    constexpr int widestTrail = 250, widestJudgement = 310;
    m_trail->setMinimumWidth(150);
    m_trail->setMaximumWidth(widestTrail);
    m_rails->setFont(Look::small());
    m_rails->setWordWrap(true);
    m_rails->setContentsMargins(10, 2, 10, 2);
    m_rails->setObjectName("rails");
    // On a small screen what is next and who is suspected scroll together, above the camera.
    auto* sheet = new QWidget;
    auto* sheetColumn = new QVBoxLayout(sheet);
    sheetColumn->setContentsMargins(0, 0, 0, 0);
    sheetColumn->setSpacing(4);
    sheetColumn->addWidget(m_next);
    sheetColumn->addWidget(m_suspects, 1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(sheet);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    connect(m_suspects, &SuspectList::opened, scroll, [this, sheet, scroll](const QRect& row) {
        sheet->layout()->activate(); // the row has just grown
        const QRect there = row.translated(m_suspects->pos());
        scroll->ensureVisible(there.left(), there.bottom(), 0, 0);
        scroll->ensureVisible(there.left(), there.top(), 0, 0);
    });
    auto* right = new QWidget;
    right->setMinimumWidth(250);
    right->setMaximumWidth(widestJudgement);
    auto* rightColumn = new QVBoxLayout(right);
    rightColumn->setContentsMargins(0, 0, 8, 0);
    rightColumn->setSpacing(4);
    rightColumn->addWidget(scroll, 1);
    rightColumn->addWidget(m_heat);
    auto* middle = new QVBoxLayout;
    middle->setSpacing(2);
    m_middle->addWidget(m_board);
    m_middle->addWidget(m_path);
    m_middle->addWidget(scrolled(m_heatMaps));
    auto* bench = new QWidget;
    auto* benchColumn = new QVBoxLayout(bench);
    benchColumn->setContentsMargins(0, 0, 0, 0);
    benchColumn->setSpacing(2);
    benchColumn->addWidget(m_rails);
    m_below->addWidget(bench);
    for (QWidget* page :
         {static_cast<QWidget*>(m_survey), static_cast<QWidget*>(m_tour), static_cast<QWidget*>(m_along)}) {
        page->setMaximumHeight(pageBelow);
        m_below->addWidget(scrolled(page));
    }
    middle->addWidget(viewWords());
    middle->addWidget(m_middle, 1);
    auto* markedColumn = new QVBoxLayout(m_markedRoom);
    markedColumn->setContentsMargins(0, 0, 0, 0);
    markedColumn->addWidget(m_marked);
    middle->addWidget(m_markedRoom);
    middle->addWidget(m_below);
    middle->addWidget(m_entry);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    constexpr int board = 640; // its share where there is little room
    row->addWidget(m_trail, widestTrail);
    row->addLayout(middle, board);
    row->addWidget(right, widestJudgement);
}

/// The views as words above the board: the one that stands is bold.
QWidget* Workbench::viewWords() {
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(8, 0, 8, 0);
    const std::pair<View, QString> views[] = {{BenchView, tr("Bench (F1)")},
                                              {SurveyView, tr("Survey (F2)")},
                                              {TourView, tr("Tour (F3)")},
                                              {PathWay, tr("Power path (F4)")},
                                              {AlongView, tr("Along the copper (F5)")},
                                              {HeatMaps, tr("Heat (F6)")}};
    for (const auto& [view, words] : views) {
        auto* button = new QPushButton(words);
        button->setProperty("plain", true);
        button->setFont(Look::small());
        button->setFocusPolicy(Qt::NoFocus);
        connect(button, &QPushButton::clicked, this, [this, v = view] { showView(v); });
        m_viewWords << button;
        row->addWidget(button);
    }
    row->addStretch(1);
    return line;
}

void Workbench::showView(View view) {
    m_view = view;
    for (qsizetype i = 0; i < m_viewWords.size(); ++i)
        m_viewWords[i]->setFont(i == view ? Look::bold(Look::small()) : Look::small());
    m_middle->setCurrentIndex(view == PathWay ? 1 : view == HeatMaps ? 2 : 0); // as they were laid out
    constexpr int pages[] = {0, 1, 2, 0, 3, 0};
    m_below->setCurrentIndex(pages[view]);
    for (int i = 0; i < m_below->count(); ++i) // a page that is not shown takes no room
        m_below->widget(i)->setSizePolicy(QSizePolicy::Preferred,
                                          i == pages[view] ? QSizePolicy::Preferred : QSizePolicy::Ignored);
    constexpr int rails = 46, bar = 8, panel = pageBelow + bar;
    m_below->setFixedHeight(pages[view] == 0 ? rails : panel);
    m_entry->setVisible(view == BenchView || view == PathWay);
    m_markedRoom->setVisible(view != SurveyView && view != TourView && view != HeatMaps);
    m_probesOn = false;
    if (!m_session) return;
    if (view == SurveyView) {
        m_survey->begin();
        m_survey->typeValue();
        m_poll->start();
    } else {
        m_poll->stop();
    }
    if (view == TourView) {
        m_board->setTouch({});
        m_tour->begin();
        m_tour->setFocus();
    }
    if (view == AlongView) {
        m_board->fit();
        movedTo(m_along->place());
    }
    if (view == PathWay) m_path->setFocus();
    if (view == HeatMaps) {
        listRecordings();
        m_heatMaps->begin();
        m_heatMaps->setFocus();
    }
    if (view == BenchView) {
        m_board->setCopper({}, {});
        m_board->setFocus();
    }
    refresh();
}

void Workbench::connectViews() {
    constexpr int pollEvery_ms = 200;
    m_poll->setInterval(pollEvery_ms);
    connect(m_poll, &QTimer::timeout, this, &Workbench::pollMeter);
    connect(m_survey, &SurveyPanel::placeWanted, this,
            [this](const QString& place) { movedTo(place.toStdString()); });
    connect(m_survey, &SurveyPanel::said, m_entry, &EntryBar::say);
    connect(m_tour, &TourPanel::partWanted, this, [this](const QString& part) {
        if (m_view == TourView && !part.isEmpty()) m_board->find(part);
    });
    connect(m_tour, &TourPanel::noted, this, &Workbench::add);
    connect(m_path, &PathView::netChosen, m_marked, &PartLine::showNet);
    connect(m_path, &PathView::measureWanted, this, [this](const QString& place) {
        takeReading({place.toStdString(), {}, m_entry->mode()});
    });
    connect(m_heatMaps, &HeatPage::stillsAdded, this, &Workbench::listRecordings);
    connect(m_heatMaps, &HeatPage::noted, this, &Workbench::add);
    connect(m_heatMaps, &HeatPage::takeBackWanted, this, &Workbench::toggleStruck);
    connect(m_heatMaps, &HeatPage::placeWanted, this,
            [this](const std::filesystem::path& still, const cv::Mat& celsius, Side side) {
                if (m_desk->busy() || m_heat->asking())
                    return m_heatMaps->tell(
                        tr("While an injection is prepared or goes on, no still can be placed."));
                showView(BenchView);
                m_stills->place(*m_session, still, celsius, side);
            });
    connect(m_stills, &StillDesk::said, m_entry, &EntryBar::say);
    connect(m_stills, &StillDesk::placed, this, [this] { showView(HeatMaps); });
    connect(m_along, &AlongPanel::noted, this, &Workbench::add);
    connect(m_along, &AlongPanel::placeWanted, this, [this](const QString& place) {
        if (m_view == AlongView) movedTo(place.toStdString());
    });
    connect(m_along, &AlongPanel::drawWanted, this, &Workbench::drawCopper);
}

/// The next place to touch: shown on the board; on a simulated bench the hands go there.
void Workbench::movedTo(const std::string& place) {
    m_board->setTouch(place);
    m_probesOn = false;
    if (const auto pad = place.empty() || !m_session ? std::nullopt : m_session->board().findPad(place))
        if (!m_session->board().pad(*pad).through) m_board->setSide(m_session->board().pad(*pad).side);
    if (place.empty() || !m_hands || !m_bench || m_view != SurveyView || !m_survey->reads()) return;
    m_hands->send(Hands::probesTouch(place, groundPlace(m_session->board())),
                  [this, place](const Result<QJsonObject>& touched) {
                      if (!touched) return m_entry->say(text(touched.error()));
                      m_probesOn = true;
                      if (place == m_survey->place()) m_survey->lifted();
                  });
}

/// A wired meter is read again and again while a survey runs.
void Workbench::pollMeter() {
    if (m_view != SurveyView || !m_bench || !m_bench->meter().isConnected() || !m_survey->reads()) return;
    if (m_hands && !m_probesOn) return;
    // A slow meter is not asked again before it has answered.
    if (m_reading.place.empty() && !m_bench->meter().isReading()) m_bench->meter().read(m_survey->mode());
}

void Workbench::takeMeter(const Reading& reading) {
    if (m_reading.place.empty()) {
        // What was under way while the probes moved on belongs to no place.
        if (m_view == SurveyView && (!m_hands || m_probesOn)) m_survey->feed(reading);
        return;
    }
    const Probing at = std::exchange(m_reading, {});
    const std::string& place = at.place;
    if (m_view == AlongView && reading.mode == MeterMode::Volts && reading.state == ReadingState::Value)
        return m_along->take(reading.value, reading.resolution);
    // Nothing where something was expected is first of all a probe that does not touch (common practice).
    if (reading.state == ReadingState::OverRange && m_openAt != place) {
        m_openAt = place;
        return m_entry->say(tr("%1: OL. Do the probes touch? Press, and read again; the second OL is noted.")
                                .arg(text(place)));
    }
    m_openAt.clear();
    add(ReadingTaken{place, at.against, reading});
    m_entry->say(text(place) + ": " + text(textOf(reading)));
}

void Workbench::readAlong(const std::string& place) {
    if (m_view != AlongView) showView(AlongView);
    m_along->setPlace(text(place));
    if (!m_bench || !m_bench->meter().isConnected()) return m_along->setFocus();
    m_reading = {place, {}, MeterMode::Volts};
    m_bench->meter().read(MeterMode::Volts);
}

/// The recordings that facts of this case name, the newest first.
void Workbench::listRecordings() {
    std::vector<HeatPage::Choice> choices;
    const auto& facts = m_session->facts();
    for (auto fact = facts.rbegin(); fact != facts.rend(); ++fact) {
        const auto* done = std::get_if<InjectionDone>(&fact->body);
        if (!done || done->recording.empty()) continue;
        const auto folder = m_session->folder().path / done->recording;
        if (!std::filesystem::exists(folder / "recording.json")) continue;
        const auto info = readRecordingInfo(folder); // what is wrong with it is told when it is looked at
        const Side side = info ? info.value().side : Side::Top;
        choices.push_back({tr("%1: %2 into %3, %4")
                               .arg(text(folder.filename().string()), text(quantityText(done->amps, "A")),
                                    text(done->plus), text(labelOf(side))),
                           folder, side, false, alignmentOf(*m_session, done->recording)});
    }
    std::error_code none; // a case without stills has no such folder
    std::vector<std::filesystem::path> stills;
    for (const auto& item : std::filesystem::directory_iterator(m_session->folder().path / "stills", none))
        if (item.path().extension() != ".json") stills.push_back(item.path());
    std::sort(stills.begin(), stills.end());
    for (const auto& still : stills) {
        const auto place = placeOf(still);
        choices.push_back({tr("still: %1").arg(text(still.filename().string())), still,
                           place ? place->side() : Side::Top, true, place});
    }
    m_heatMaps->setCase(&m_session->board(), m_session->folder().path, choices,
                        {m_desk->registration(Side::Top), m_desk->registration(Side::Bottom)});
    m_heatMaps->showPainted(m_session->assessment().state);
}

/// Potential and current as they would be if the first suspect were the short.
void Workbench::drawCopper() {
    if (!m_session || !m_along->drawsCopper()) return m_board->setCopper({}, {});
    const Assessment& a = m_session->assessment();
    const auto plus = a.state.board.findPad(m_along->plus());
    PartIndex drain = a.state.board.findPart(m_board->selected());
    if (drain < 0 || !couldShort(a.state.board, a.state.board.parts[drain], a.down.nets))
        drain = a.suspects.empty() ? -1 : a.suspects.front().part;
    if (!plus || drain < 0)
        return m_entry->say(tr("Nothing to draw: no suspect, or no place where the current enters."));
    const double amps = m_along->amps().value_or(1);
    auto pictures = copperPictures(a.state.board, a.down, *plus, drain, Amps(amps));
    if (!pictures) {
        m_board->setCopper({}, text(pictures.error()));
        return;
    }
    m_board->setCopper(std::move(pictures.value()),
                       tr("%1 from %2 to %3, were it the short")
                           .arg(text(quantityText(amps, "A")), text(m_along->plus()),
                                text(a.state.board.parts[drain].designator)));
}

void Workbench::connectParts() {
    connect(m_trail, &TrailPanel::strikeWanted, this, &Workbench::toggleStruck);
    m_next->setObjectName("nextPanel");
    connect(m_next, &NextPanel::wanted, this, &Workbench::carryOut);
    connect(m_next, &NextPanel::cautionMet, this, [this](const QString& about) {
        if (const auto noted = m_session->add(CautionMet{about.toStdString()}); !noted)
            m_entry->say(text(noted.error()));
    });
    connect(m_next, &NextPanel::stopWanted, this, [this] {
        if (m_heat->asking()) {
            m_heat->cancelLandmarks();
            m_next->endBusy();
        } else {
            switchOff();
        }
    });
    connect(m_suspects, &SuspectList::chosen, this, [this](const QString& part) {
        if (m_session && m_session->board().findPart(part.toStdString()) >= 0) m_board->find(part);
    });
    connect(m_board, &PlateView::partChosen, this, [this](const QString& part) {
        m_suspects->choose(part.toStdString());
        m_marked->showPart(part);
    });
    connect(m_board, &PlateView::netChosen, m_marked, &PartLine::showNet);
    connect(m_board, &PlateView::placeChosen, m_entry, &EntryBar::setPlace);
    connect(m_board, &PlateView::placeChosen, m_marked, &PartLine::showPlace);
    connect(m_marked, &PartLine::noted, this, &Workbench::add);
    connect(m_marked, &PartLine::said, m_entry, &EntryBar::say);
    connect(m_entry, &EntryBar::noted, this, &Workbench::add);
    connect(m_desk, &InjectionDesk::said, m_entry, &EntryBar::say);
    connect(m_desk, &InjectionDesk::outputMayDiffer, this, &Workbench::tellOutput);
    connect(m_desk, &InjectionDesk::live, this, [this](const LiveHeat& heat, Side side) {
        m_strip->setWarmest(heat.warmest_k);
        if (m_view == HeatMaps) m_heatMaps->showLive(heat, side);
    });
}

void Workbench::open(std::unique_ptr<CaseSession> session) {
    closeCase();
    m_session = std::move(session);
    m_entry->setBoard(&m_session->board());
    connect(m_session.get(), &CaseSession::changed, this, &Workbench::refresh);
    connect(m_session.get(), &CaseSession::judging, m_next, &NextPanel::await);
    connect(m_session.get(), &CaseSession::factAdded, this, [this](const Fact& fact) {
        if (m_hands) m_hands->follow(fact.body);
    });
    m_trail->show(m_session.get());
    m_survey->open(m_session.get());
    m_tour->open(m_session.get());
    m_along->open(m_session.get());
    const auto recovered = m_desk->open(*m_session);
    showView(BenchView);
    m_board->fit();
    QString warnings;
    for (const auto& w : m_session->folder().warnings)
        warnings += text(w) + " ";
    warnings += recovered;
    m_entry->say(warnings);
}

void Workbench::connectBench(const BenchAddress& address) {
    m_bench = std::make_unique<BenchLink>(programBeside("ustor-guard"));
    connect(m_bench.get(), &BenchLink::sample, m_strip, &Strip::add);
    connect(m_bench.get(), &BenchLink::frame, m_heat, &HeatView::addFrame);
    connect(m_bench.get(), &BenchLink::stateChanged, this, [this] {
        if (!m_bench->lastSample()) m_strip->lose();
        tellOutput();
    });
    connect(m_bench.get(), &BenchLink::trouble, this,
            [this](const Message& what) { m_entry->say(text(what)); });
    connect(m_bench.get(), &BenchLink::cameraLost, m_heat, [this](const Message& why) {
        m_heat->lose(tr("Camera lost: %1. It is tried again by itself.").arg(text(why)));
    });
    connect(&m_bench->meter(), &Meter::reading, this, &Workbench::takeMeter);
    connect(&m_bench->meter(), &Meter::failed, this, [this](const Message& why) {
        m_reading = {};
        m_entry->say(tr("No reading: %1. Try again, or type it.").arg(text(why)));
    });
    if (address.control.known()) {
        m_hands = std::make_unique<Hands>();
        m_hands->reach(address.control, [this](const Error& why) { m_entry->say(text(why)); });
    }
    m_desk->setBench(m_bench.get(), m_hands.get());
    m_bench->open(address);
}

/// Between two pulses the board counts as energised: the next one comes by itself.
void Workbench::tellOutput() {
    OutputShown shown;
    shown.byHand = byHand() && byHand()->running();
    if (m_bench) shown.state = m_bench->outputState();
    shown.comesAgain = injecting();
    m_awake->hold(shown.ember());
    emit outputChanged(shown);
}

void Workbench::closeCase() {
    switchOff();
    m_desk->close();
    m_bench.reset();
    m_hands.reset();
    m_poll->stop();
    m_trail->show(nullptr);
    m_survey->open(nullptr);
    m_tour->open(nullptr);
    m_along->open(nullptr);
    m_path->show(nullptr);
    m_heatMaps->setCase(nullptr, {}, {}, {});
    m_board->show(nullptr);
    m_board->clearHeat();
    m_suspects->show(nullptr);
    m_marked->show(nullptr);
    m_next->show(nullptr);
    m_next->endBusy();
    m_entry->setBoard(nullptr);
    m_session.reset();
    m_openAt.clear();
    m_strip->lose();
    tellOutput();
}

void Workbench::refresh() {
    const Assessment& a = m_session->assessment();
    m_board->show(&a);
    m_suspects->show(&a);
    m_marked->show(&a);
    m_next->show(&a);
    m_path->show(&a);
    if (m_view == HeatMaps) listRecordings();
    tellRails(a);
    const NextMove* next = m_next->shown();
    const bool probe =
        next &&
        (next->kind == MoveKind::MeasureRail || next->kind == MoveKind::MeasureAfterLift ||
         next->kind == MoveKind::ProveRail || next->kind == MoveKind::MeasureAcross ||
         next->kind == MoveKind::ReadVolts || next->kind == MoveKind::Inject || next->kind == MoveKind::Lift);
    std::string place = probe ? next->place : std::string();
    const std::string against = probe ? next->against : std::string();
    if (next && next->kind == MoveKind::Lift) {
        m_board->select(place);
        place.clear();
    }
    if (m_view == SurveyView || m_view == TourView || m_view == AlongView) return; // they say where to touch
    m_board->setTouch(place);
    if (!place.empty()) m_entry->setPlace(text(against.empty() ? place : place + " " + against));
}

/// Those that are down, then the newest; all of them in the tip.
void Workbench::tellRails(const Assessment& a) {
    constexpr std::size_t most = 8;
    std::vector<const RailJudgement*> order;
    for (const RailJudgement& r : a.rails)
        order.push_back(&r);
    std::stable_sort(order.begin(), order.end(), [&](const RailJudgement* x, const RailJudgement* y) {
        const bool xDown = a.down.holds(x->net), yDown = a.down.holds(y->net);
        return xDown != yDown ? xDown : x->fact > y->fact;
    });
    QStringList shown, all;
    for (const RailJudgement* r : order) {
        const QString line = text(a.state.board.nets[r->net].name) + " " + text(r->reading) + " " +
                             text(labelOf(r->ruling.state));
        all << line;
        if (static_cast<std::size_t>(shown.size()) < most)
            shown << (a.down.holds(r->net) ? "<b>" + line.toHtmlEscaped() + "</b>" : line.toHtmlEscaped());
    }
    QString rails = shown.join("   \u00b7   ");
    if (all.size() > shown.size())
        rails += "   \u00b7   " + tr("%n more", nullptr, static_cast<int>(all.size() - shown.size()));
    // The newest of what counts for nothing stands there; all of it in the tip and in the report.
    QStringList aside;
    for (const SetAside& each : a.setAside)
        aside << text(each.why);
    m_rails->setToolTip((all + aside).join('\n'));
    if (!aside.isEmpty())
        rails += (rails.isEmpty() ? "" : "<br>") + tr("Mind: %1.").arg(aside.back().toHtmlEscaped());
    m_rails->setText(rails.isEmpty() ? tr("Rails that were read show up here.") : rails);
}

void Workbench::add(const FactBody& body) {
    if (!m_session) return;
    if (const auto added = m_session->add(body); !added) {
        m_entry->say(text(added.error()));
        return;
    }
    m_entry->say(tr("Noted: %1").arg(text(sentenceOf(body))));
}

void Workbench::carryOut(const NextMove& move) {
    const Deed deed = deedFor(move, m_session->assessment());
    if (deed.facts.size() == 1) return add(deed.facts.front());
    if (!deed.facts.empty()) {
        if (const auto added = m_session->add(deed.facts); !added) m_entry->say(text(added.error()));
        return;
    }
    switch (deed.work) {
    case Deed::Work::None:
        return;
    case Deed::Work::Read:
        return takeReading({deed.place, deed.against, deed.mode});
    case Deed::Work::ReadAlong:
        return readAlong(deed.place);
    case Deed::Work::Inject:
        return m_desk->prepare(deed.side, deed.school);
    case Deed::Work::Watch:
        return m_desk->watch(deed.side);
    case Deed::Work::TypeComplaint:
        return m_entry->startTyping("complaint");
    case Deed::Work::TypeSource:
        return m_entry->startTyping("plug-in");
    case Deed::Work::TypePart:
        m_entry->setPlace(text(deed.place));
        return m_entry->startTyping("part");
    }
}

void Workbench::takeReading(const Probing& at) {
    m_entry->setPlace(text(at.against.empty() ? at.place : at.place + " " + at.against));
    m_entry->setKind(std::string(wordOf(at.mode)).c_str());
    if (!m_bench || !m_bench->meter().isConnected()) {
        m_entry->say(tr("No meter is connected: type what it shows."));
        return m_entry->startTyping();
    }
    const auto read = [this, at] {
        m_reading = at;
        m_bench->meter().read(at.mode);
    };
    if (!m_hands) return read();
    const std::string black = at.against.empty() ? groundPlace(m_session->board()) : at.against;
    m_hands->send(Hands::probesTouch(at.place, black), [this, read](const Result<QJsonObject>& touched) {
        if (touched) return read();
        m_entry->say(text(touched.error()));
    });
}

bool Workbench::injecting() const {
    return m_desk->running();
}

const HandSwitching* Workbench::byHand() const {
    return m_desk->byHand();
}

void Workbench::switchOff() {
    m_desk->stop();
    m_stills->leave();
    if (m_bench) m_bench->supply().switchOff();
}

void Workbench::toggleStruck(long id) {
    if (const auto struck = m_session->toggleStruck(id); !struck) m_entry->say(text(struck.error()));
}

void Workbench::undo() {
    if (!m_session) return;
    if (const auto undone = m_session->undo(); !undone) m_entry->say(text(undone.error()));
}

void Workbench::redo() {
    if (!m_session) return;
    if (const auto redone = m_session->redo(); !redone) m_entry->say(text(redone.error()));
}

void Workbench::doNext() {
    m_next->button()->click();
}

void Workbench::typeReading() {
    m_entry->startTyping();
}

void Workbench::writeReport() {
    if (!m_session) return;
    QByteArray picture;
    QBuffer buffer(&picture);
    buffer.open(QIODevice::WriteOnly);
    m_board->grab().save(&buffer, "PNG");
    m_entry->say(tr("The report is being written …"));
    m_report.begin({m_session->folder().title, &m_session->facts(), &m_session->assessment(), picture},
                   m_session->folder().path / "report.pdf");
}

} // namespace ustor
