#include "app/workbench.h"

#include "app/along_panel.h"
#include "app/entry_bar.h"
#include "app/hand_switching.h"
#include "app/heat/heat_page.h"
#include "app/heat_view.h"
#include "app/look.h"
#include "app/next_panel.h"
#include "app/part_line.h"
#include "app/path_view.h"
#include "app/plate_view.h"
#include "app/strip.h"
#include "app/survey_panel.h"
#include "app/suspect_list.h"
#include "app/tour_panel.h"
#include "app/trail_panel.h"
#include "base/quantity_text.h"
#include "rail/handy_place.h"
#include "session/certainty.h"
#include "session/landmarks.h"
#include "store/report.h"

#include <QFile>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSaveFile>
#include <QScrollArea>
#include <QStackedWidget>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace ustor {
namespace {

QString text(const std::string& s) {
    return QString::fromStdString(s);
}

std::filesystem::path registrationFile(const CaseSession& session, Side side) {
    return session.folder().path / ("registration-" + std::string(wordOf(side)) + ".json");
}

} // namespace

Workbench::Workbench(QWidget* parent)
    : QWidget(parent), m_trail(new TrailPanel), m_board(new PlateView), m_heat(new HeatView),
      m_next(new NextPanel), m_suspects(new SuspectList), m_strip(new Strip), m_entry(new EntryBar),
      m_rails(new QLabel), m_marked(new PartLine), m_markedRoom(new QWidget), m_middle(new QStackedWidget),
      m_below(new QStackedWidget), m_survey(new SurveyPanel), m_tour(new TourPanel), m_path(new PathView),
      m_along(new AlongPanel), m_heatMaps(new HeatPage), m_poll(new QTimer(this)) {
    layOut();
    connectParts();
    connectViews();
}

Workbench::~Workbench() {
    closeCase();
}

void Workbench::layOut() {
    m_trail->setFixedWidth(250);
    m_rails->setFont(Look::small());
    m_rails->setWordWrap(true);
    m_rails->setContentsMargins(10, 2, 10, 2);
    m_rails->setObjectName("rails");
    auto* scroll = new QScrollArea;
    scroll->setWidget(m_suspects);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    auto* right = new QWidget;
    right->setFixedWidth(310);
    auto* rightColumn = new QVBoxLayout(right);
    rightColumn->setContentsMargins(0, 0, 8, 0);
    rightColumn->setSpacing(4);
    rightColumn->addWidget(m_next);
    rightColumn->addWidget(scroll, 1);
    rightColumn->addWidget(m_heat);
    auto* middle = new QVBoxLayout;
    middle->setSpacing(2);
    m_middle->addWidget(m_board);
    m_middle->addWidget(m_path);
    m_middle->addWidget(m_heatMaps);
    auto* bench = new QWidget;
    auto* benchColumn = new QVBoxLayout(bench);
    benchColumn->setContentsMargins(0, 0, 0, 0);
    benchColumn->setSpacing(2);
    benchColumn->addWidget(m_rails);
    for (QWidget* page : {bench, static_cast<QWidget*>(m_survey), static_cast<QWidget*>(m_tour),
                          static_cast<QWidget*>(m_along)})
        m_below->addWidget(page);
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
    row->addWidget(m_trail);
    row->addLayout(middle, 1);
    row->addWidget(right);
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
    m_middle->setCurrentWidget(view == PathWay    ? static_cast<QWidget*>(m_path)
                               : view == HeatMaps ? static_cast<QWidget*>(m_heatMaps)
                                                  : m_board);
    constexpr int pages[] = {0, 1, 2, 0, 3, 0};
    m_below->setCurrentIndex(pages[view]);
    for (int i = 0; i < m_below->count(); ++i) // a page that is not shown takes no room
        m_below->widget(i)->setSizePolicy(QSizePolicy::Preferred,
                                          i == pages[view] ? QSizePolicy::Preferred : QSizePolicy::Ignored);
    constexpr int rails = 46, panel = 170;
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
    connect(m_path, &PathView::measureWanted, this,
            [this](const QString& place) { takeReading(place.toStdString()); });
    connect(m_heatMaps, &HeatPage::stillsAdded, this, &Workbench::listRecordings);
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
    if (place.empty() || !m_hands || !m_bench || m_view != SurveyView) return;
    m_hands->send(Hands::probesTouch(place, groundPlace(m_session->board())),
                  [this, place](const Result<QJsonObject>& touched) {
                      if (!touched) return m_entry->say(text(touched.error().text()));
                      m_probesOn = true;
                      if (place == m_survey->place()) m_survey->lifted();
                  });
}

/// A wired meter is read again and again while a survey runs.
void Workbench::pollMeter() {
    if (m_view != SurveyView || !m_bench || !m_bench->meter().isConnected() || m_survey->place().empty())
        return;
    if (m_hands && !m_probesOn) return;
    if (m_readingPlace.empty()) m_bench->meter().read(m_survey->mode());
}

void Workbench::takeMeter(const Reading& reading) {
    if (m_readingPlace.empty()) {
        if (m_view == SurveyView) m_survey->feed(reading);
        return;
    }
    const std::string place = std::exchange(m_readingPlace, {});
    if (m_view == AlongView && reading.mode == MeterMode::Volts && reading.state == ReadingState::Value)
        return m_along->take(reading.value, reading.resolution);
    add(ReadingTaken{place, "", reading});
    m_entry->say(text(place) + ": " + text(textOf(reading)));
}

void Workbench::readAlong(const std::string& place) {
    if (m_view != AlongView) showView(AlongView);
    m_along->setPlace(text(place));
    if (!m_bench || !m_bench->meter().isConnected()) return m_along->setFocus();
    m_readingPlace = place;
    m_bench->meter().read(MeterMode::Volts);
}

/// The recordings that facts of this case name, the newest first.
void Workbench::listRecordings() {
    std::vector<HeatPage::Choice> choices;
    const auto& facts = m_session->facts();
    const auto sideOf = [&facts](const std::string& recording) {
        for (const Fact& fact : facts)
            if (const auto* found = std::get_if<HeatFound>(&fact.body))
                if (found->recording == recording) return found->side;
        return Side::Top;
    };
    for (auto fact = facts.rbegin(); fact != facts.rend(); ++fact) {
        const auto* done = std::get_if<InjectionDone>(&fact->body);
        if (!done || done->recording.empty()) continue;
        const auto folder = m_session->folder().path / done->recording;
        if (!std::filesystem::exists(folder / "recording.json")) continue;
        const Side side = sideOf(done->recording);
        choices.push_back({tr("%1: %2 into %3, %4")
                               .arg(text(folder.filename().string()), text(quantityText(done->amps, "A")),
                                    text(done->plus), text(std::string(wordOf(side)))),
                           folder, side, false});
    }
    std::error_code none; // a case without stills has no such folder
    std::vector<std::filesystem::path> stills;
    for (const auto& item : std::filesystem::directory_iterator(m_session->folder().path / "stills", none))
        if (item.path().extension() != ".json") stills.push_back(item.path());
    std::sort(stills.begin(), stills.end());
    for (const auto& still : stills)
        choices.push_back({tr("still: %1").arg(text(still.filename().string())), still, Side::Top, true});
    m_heatMaps->setCase(&m_session->board(), m_session->folder().path, choices,
                        {m_registration[0], m_registration[1]});
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
        m_board->setCopper({}, text(pictures.error().text()));
        return;
    }
    m_board->setCopper(std::move(pictures.value()),
                       tr("%1 from %2 to %3, were it the short")
                           .arg(text(quantityText(amps, "A")), text(m_along->plus()),
                                text(a.state.board.parts[drain].designator)));
}

void Workbench::connectParts() {
    connect(m_trail, &TrailPanel::strikeWanted, this, [this](long id) {
        if (const auto struck = m_session->toggleStruck(id); !struck)
            m_entry->say(text(struck.error().text()));
    });
    connect(m_next, &NextPanel::wanted, this, &Workbench::carryOut);
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
    connect(m_heat, &HeatView::asksFor, this,
            [this](const QString& part) { m_board->select(part.toStdString()); });
    connect(m_heat, &HeatView::alignWanted, this, [this] {
        if (!m_session || injecting()) return;
        m_registration[m_spot.side == Side::Bottom].reset();
        if (!m_session->assessment().down.nets.empty()) prepareInjection(m_spot.side, m_school);
    });
    connect(m_heat, &HeatView::aligned, this, [this](const std::vector<Landmark>& landmarks) {
        const auto made = Registration::fromLandmarks(landmarks, m_spot.side);
        if (!made) {
            m_next->endBusy();
            m_entry->say(text(made.error().text()));
            return;
        }
        m_registration[m_spot.side == Side::Bottom] = made.value();
        keepRegistration(made.value());
        inject();
    });
}

void Workbench::open(std::unique_ptr<CaseSession> session) {
    closeCase();
    m_session = std::move(session);
    connect(m_session.get(), &CaseSession::changed, this, &Workbench::refresh);
    connect(m_session.get(), &CaseSession::factAdded, this, [this](const Fact& fact) {
        if (m_hands) m_hands->follow(fact.body);
    });
    m_trail->show(m_session.get());
    m_survey->open(m_session.get());
    m_tour->open(m_session.get());
    m_along->open(m_session.get());
    readRegistrations();
    showView(BenchView);
    m_board->fit();
    QString warnings;
    for (const auto& w : m_session->folder().warnings)
        warnings += text(w) + " ";
    m_entry->say(warnings);
}

void Workbench::keepRegistration(const Registration& made) {
    QSaveFile file(text(registrationFile(*m_session, made.side()).string()));
    const bool kept = file.open(QIODevice::WriteOnly) && file.write(registrationToJson(made).c_str()) > 0;
    if (!kept || !file.commit())
        return m_entry->say(
            tr("The alignment holds for now but could not be saved: %1").arg(file.errorString()));
    constexpr double fair_mm = 1;
    m_entry->say(
        tr("Camera aligned: the landmarks agree to %1 mm.%2")
            .arg(made.residual_mm(), 0, 'f', 2)
            .arg(made.residual_mm() > fair_mm ? tr(" That is coarse: align again if you can.") : ""));
}

void Workbench::readRegistrations() {
    for (const Side side : {Side::Top, Side::Bottom}) {
        m_registration[side == Side::Bottom].reset();
        QFile file(text(registrationFile(*m_session, side).string()));
        if (!file.open(QIODevice::ReadOnly)) continue;
        if (const auto read =
                registrationFromJson(file.readAll().toStdString(), file.fileName().toStdString()))
            m_registration[side == Side::Bottom] = read.value();
    }
}

void Workbench::connectBench(const BenchAddress& address) {
    m_bench = std::make_unique<BenchLink>(programBeside("ustor-guard"));
    connect(m_bench.get(), &BenchLink::sample, m_strip, &Strip::add);
    connect(m_bench.get(), &BenchLink::frame, m_heat, &HeatView::addFrame);
    connect(m_bench.get(), &BenchLink::stateChanged, this, [this] {
        if (!m_bench->lastSample()) m_strip->lose();
        tellOutput();
    });
    connect(m_bench.get(), &BenchLink::trouble, this, [this](const QString& what) { m_entry->say(what); });
    connect(m_bench.get(), &BenchLink::cameraLost, m_heat, [this](const QString& why) {
        m_heat->lose(tr("Camera lost: %1. It is tried again by itself.").arg(why));
    });
    connect(&m_bench->meter(), &Meter::reading, this, &Workbench::takeMeter);
    connect(&m_bench->meter(), &Meter::failed, this, [this](const QString& why) {
        m_readingPlace.clear();
        m_entry->say(tr("No reading: %1. Try again, or type it.").arg(why));
    });
    if (address.control.known()) {
        m_hands = std::make_unique<Hands>();
        if (const auto opened = m_hands->open(address.control); !opened)
            m_entry->say(text(opened.error().text()));
    }
    m_bench->open(address);
}

/// Between two pulses the board counts as energised: the next one comes by itself.
void Workbench::tellOutput() {
    emit outputChanged((m_bench && m_bench->outputOn()) || injecting(), m_byHand && m_byHand->running());
}

/// A case that is closed before its recording was gone over keeps at least what was done.
void Workbench::keepWhatWasDone() {
    if (!m_session) return;
    if (m_run && m_run->goesOver())
        (void)m_session->add(factsOf(m_run->soFar(), m_spot, m_recordingFolder, *m_session));
    if (m_byHand && m_byHand->run().goesOver())
        (void)m_session->add(factsOf(m_byHand->run().soFar(), m_spot, m_recordingFolder, *m_session));
}

void Workbench::closeCase() {
    switchOff();
    keepWhatWasDone();
    m_run.reset();
    m_byHand.reset();
    m_bench.reset();
    m_hands.reset();
    m_preparing = false;
    m_poll->stop();
    m_trail->show(nullptr);
    m_survey->open(nullptr);
    m_tour->open(nullptr);
    m_along->open(nullptr);
    m_path->show(nullptr);
    m_heatMaps->setCase(nullptr, {}, {}, {});
    m_board->show(nullptr);
    m_board->clearHeat();
    m_heat->cancelLandmarks();
    m_heat->offerAlignment(false);
    m_suspects->show(nullptr);
    m_marked->show(nullptr);
    m_next->show(nullptr);
    m_next->endBusy();
    m_session.reset();
    m_strip->lose();
}

void Workbench::refresh() {
    const Assessment& a = m_session->assessment();
    m_board->show(&a);
    m_suspects->show(&a);
    m_marked->show(&a);
    m_next->show(&a);
    m_path->show(&a);
    if (m_view == HeatMaps) listRecordings();
    QString rails;
    for (const RailJudgement& r : a.rails) {
        const bool down = a.down.holds(r.net);
        const QString line = text(a.state.board.nets[r.net].name) + " " + text(r.reading) + " " +
                             text(std::string(wordOf(r.ruling.state)));
        rails += (rails.isEmpty() ? "" : "   \u00b7   ") +
                 (down ? "<b>" + line.toHtmlEscaped() + "</b>" : line.toHtmlEscaped());
    }
    m_rails->setText(rails.isEmpty() ? tr("Rails that were read show up here.") : rails);
    const NextMove* next = m_next->shown();
    const bool probe =
        next &&
        (next->kind == MoveKind::MeasureRail || next->kind == MoveKind::MeasureAfterLift ||
         next->kind == MoveKind::ProveRail || next->kind == MoveKind::Inject || next->kind == MoveKind::Lift);
    std::string place = probe ? next->place : std::string();
    if (next && next->kind == MoveKind::Lift) {
        m_board->select(place);
        place.clear();
    }
    if (m_view == SurveyView || m_view == TourView || m_view == AlongView) return; // they say where to touch
    m_board->setTouch(place);
    if (!place.empty()) m_entry->setPlace(text(place));
}

void Workbench::add(const FactBody& body) {
    if (!m_session) return;
    if (const auto added = m_session->add(body); !added) {
        m_entry->say(text(added.error().text()));
        return;
    }
    m_entry->say(tr("Noted: %1").arg(text(sentenceOf(body))));
}

void Workbench::carryOut(const NextMove& move) {
    switch (move.kind) {
    case MoveKind::MeasureRail:
    case MoveKind::MeasureAfterLift:
    case MoveKind::ProveRail:
        return takeReading(move.place);
    case MoveKind::LookOver:
        return add(Seen{"", Damage::None, "looked over both sides"});
    case MoveKind::ChooseRail:
        return add(RailChosen{move.place});
    case MoveKind::Inject:
    case MoveKind::TurnOver:
        return prepareInjection(move.side, move.school);
    case MoveKind::Unplug:
        return add(Unplugged{move.place});
    case MoveKind::ReadAlong:
        return readAlong(move.place);
    case MoveKind::Split:
        return liftLinks();
    case MoveKind::Lift:
        return add(Lifted{move.place});
    case MoveKind::Replace:
        return add(Refitted{move.place, true, ""});
    case MoveKind::Close:
        return add(Closed{true, m_session->assessment().culprit, ""});
    case MoveKind::Stop:
        return add(Closed{false, "", "no rail is down: not a short"});
    case MoveKind::NoteComplaint:
        return m_entry->startTyping(EntryBar::ComplaintKind);
    case MoveKind::ReadSource:
        return m_entry->startTyping(EntryBar::SourceKind);
    }
}

/// All links of the best split, side by side ones together.
void Workbench::liftLinks() {
    const auto& splits = m_session->assessment().splits;
    if (splits.empty()) return;
    std::vector<FactBody> lifted;
    for (const PartIndex link : splits.front().links)
        lifted.emplace_back(Lifted{m_session->board().parts[link].designator});
    if (const auto added = m_session->add(lifted); !added) m_entry->say(text(added.error().text()));
}

void Workbench::takeReading(const std::string& place) {
    m_entry->setPlace(text(place));
    if (!m_bench || !m_bench->meter().isConnected()) {
        m_entry->say(tr("No meter is connected: type what it shows."));
        return m_entry->startTyping();
    }
    const auto read = [this, place] {
        m_readingPlace = place;
        m_bench->meter().read(m_entry->mode());
    };
    if (!m_hands) return read();
    m_hands->send(Hands::probesTouch(place, groundPlace(m_session->board())),
                  [this, read](const Result<QJsonObject>& touched) {
                      if (touched) return read();
                      m_entry->say(text(touched.error().text()));
                  });
}

void Workbench::prepareInjection(Side side, School school) {
    if (m_preparing || injecting()) return;
    if (!m_bench || !m_bench->camera().isConnected())
        return m_entry->say(tr("An injection needs a camera: connect a bench on the page of cases."));
    if (m_bench->address().supply.known() && !m_bench->supply().isConnected())
        return m_entry->say(tr("The supply is not connected: nothing was switched on."));
    m_school = school;
    if (m_session->assessment().down.nets.empty()) return m_entry->say(tr("No rail is known to be down."));
    m_spot = injectionSpot(*m_session, side);
    m_board->setSide(side);
    if (!m_hands) return alignOrInject();
    m_preparing = true;
    m_hands->send(Hands::boardTurned(side));
    m_hands->send(Hands::leadsOn(m_spot.plus, m_spot.minus), [this](const Result<QJsonObject>& clipped) {
        m_preparing = false;
        if (clipped) return alignOrInject();
        m_entry->say(text(clipped.error().text()));
    });
}

void Workbench::alignOrInject() {
    const Side side = m_spot.side;
    if (m_registration[side == Side::Bottom]) return inject();
    QStringList names;
    std::vector<BoardPoint> places;
    constexpr int wanted = 5; // four fix the place, the fifth tells how well
    for (const PartIndex p : landmarkParts(m_session->board(), side, wanted)) {
        names << text(m_session->board().parts[p].designator);
        places.push_back(m_session->board().parts[p].centre);
    }
    m_next->showBusy(
        tr("Show where the camera looks"),
        tr("Click the middle of %1 in the camera picture, one after the other. Plus lead on %2, minus on %3.")
            .arg(names.join(", "), text(m_spot.plus), text(m_spot.minus)));
    m_heat->askLandmarks(names, places);
}

bool Workbench::injecting() const {
    return (m_run && m_run->running()) || (m_byHand && m_byHand->running());
}

void Workbench::inject() {
    m_heat->offerAlignment(false);
    if (!m_bench->address().supply.known()) return injectByHand();
    const auto settings =
        settingsFor(*m_session, *m_bench, m_spot.side, m_registration[m_spot.side == Side::Bottom], m_school);
    m_recordingFolder = settings.recordingFolder;
    const auto& first = settings.plan.steps.front();
    m_run = std::make_unique<InjectionRun>(*m_bench, settings);
    connect(m_run.get(), &InjectionRun::live, this, [this](const LiveHeat& heat) {
        showLive(heat);
        if (!m_run || !m_run->running()) return;
        const auto& step = m_run->plan().steps[m_run->step()];
        QString found = heat.located.sources.empty()
                            ? tr("nothing certain yet")
                            : tr("%1: %2 sigma")
                                  .arg(text(std::string(wordOf(heat.located.verdict))))
                                  .arg(heat.located.sources.front().spot.snr, 0, 'f', 0);
        if (const auto left_s = secondsToCertain(heat); left_s && *left_s > 0)
            found += tr(", certain in about %1 s").arg(*left_s, 0, 'f', 0);
        m_next->showBusy(
            tr("Injecting %1 into %2").arg(text(quantityText(step.amps.value, "A")), text(m_spot.plus)),
            tr("%1 s so far, %2 % of the plan; %3. Esc stops.")
                .arg(heat.seconds, 0, 'f', 0)
                .arg(100 * m_run->progress(), 0, 'f', 0)
                .arg(found));
    });
    connect(m_run.get(), &InjectionRun::ended, this, [this] {
        m_next->showBusy(tr("The output was switched off"), tr("What was recorded is gone over as a whole."));
    });
    connect(m_run.get(), &InjectionRun::finished, this, &Workbench::finishInjection);
    if (const auto started = m_run->start(); !started) {
        m_next->endBusy();
        m_entry->say(text(started.error().text()));
        return;
    }
    tellOutput();
    const auto& bound = settings.plan.limits.voltBounds.front();
    m_next->showBusy(
        tr("Injecting %1 into %2").arg(text(quantityText(first.amps.value, "A")), text(m_spot.plus)),
        tr("At most %1; never above %2 because %3. Esc stops.")
            .arg(text(quantityText(settings.plan.steps.back().volts.value, "V")),
                 text(quantityText(bound.value, "V")), text(bound.reason)));
}

void Workbench::injectByHand() {
    const auto settings = byHandSettingsFor(*m_session, *m_bench, m_spot.side,
                                            m_registration[m_spot.side == Side::Bottom], m_school);
    m_recordingFolder = settings.injection.recordingFolder;
    m_byHand = std::make_unique<HandSwitching>(*m_bench, settings, *m_next);
    connect(m_byHand.get(), &HandSwitching::live, this, &Workbench::showLive);
    connect(m_byHand.get(), &HandSwitching::began, this, &Workbench::tellOutput);
    connect(m_byHand.get(), &HandSwitching::refused, m_entry, &EntryBar::say);
    connect(m_byHand.get(), &HandSwitching::finished, this, &Workbench::finishInjection);
    m_byHand->prepare(text(m_spot.plus), text(m_spot.minus));
}

void Workbench::showLive(const LiveHeat& heat) {
    m_board->setHeat(heat, m_registration[m_spot.side == Side::Bottom]);
    m_strip->setWarmest(heat.warmest_k);
    std::vector<PixelPoint> spots;
    for (const auto& s : heat.located.sources)
        spots.push_back(s.spot.at);
    m_heat->setSpots(spots);
    if (m_view == HeatMaps) m_heatMaps->showLive(heat, m_spot.side);
}

void Workbench::finishInjection(const InjectionOutcome& outcome) {
    m_heat->offerAlignment(true);
    tellOutput();
    // The facts first: then what comes next is laid out once, not twice.
    const auto added = m_session->add(factsOf(outcome, m_spot, m_recordingFolder, *m_session));
    m_next->endBusy();
    QString words = !added           ? text(added.error().text())
                    : outcome.byHand ? tr("Switch the output OFF now, if it is still on.")
                                     : text(std::string(sentenceOf(outcome.cause)));
    if (outcome.byHand && outcome.cause == StopCause::TooWarm) words += tr(" A spot became too warm.");
    if (outcome.byHand && outcome.cause == StopCause::CameraLost) words += tr(" The camera sent no picture.");
    if (outcome.recordingError) words += " " + text(outcome.recordingError->text());
    m_entry->say(words);
}

void Workbench::switchOff() {
    if (m_run) m_run->stop(StopCause::Person);
    if (m_byHand && m_byHand->waits()) {
        m_byHand.reset();
        m_next->endBusy();
    } else if (m_byHand) {
        m_byHand->stop();
    }
    if (m_bench) m_bench->supply().switchOff();
}

void Workbench::undo() {
    if (!m_session) return;
    if (const auto undone = m_session->undo(); !undone) m_entry->say(text(undone.error().text()));
}

void Workbench::redo() {
    if (!m_session) return;
    if (const auto redone = m_session->redo(); !redone) m_entry->say(text(redone.error().text()));
}

void Workbench::doNext() {
    m_next->button()->click();
}

void Workbench::typeReading() {
    m_entry->startTyping();
}

QString Workbench::writeReport() {
    if (!m_session) return {};
    const QImage picture = m_board->grab().toImage();
    const std::filesystem::path file = m_session->folder().path / "report.pdf";
    const ReportInput input{m_session->folder().title, &m_session->facts(), &m_session->assessment(),
                            picture};
    const auto written = writeReportPdf(input, file);
    QString words =
        written ? tr("Report written: %1").arg(text(file.string())) : text(written.error().text());
    m_entry->say(words);
    return words;
}

} // namespace ustor
