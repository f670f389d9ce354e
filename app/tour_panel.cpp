#include "app/tour_panel.h"

#include "app/look.h"
#include "app/words.h"
#include "rail/survey_way.h"

#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace ustor {
namespace {

/// By digit.
const std::vector<Word<Damage>>& looks() {
    return vocabulary(Damage{});
}

} // namespace

TourPanel::TourPanel(QWidget* parent)
    : QWidget(parent), m_name(new QLabel), m_about(new QLabel),
      m_foam(new QPushButton(tr("Foam and tape are off"))), m_shields(new QPushButton(tr("Shields are off"))),
      m_list(new QListWidget) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Tour of the parts on the rail"));
    m_name->setFont(Look::bold(Look::large()));
    m_name->setObjectName("tourPart");
    m_about->setFont(Look::small());
    m_about->setWordWrap(true);
    m_about->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    m_list->setFont(Look::small());
    m_list->setObjectName("tourList");
    m_list->setAccessibleName(tr("Parts of the tour"));
    auto* words = new QHBoxLayout;
    words->setSpacing(2);
    for (int i = 0; i < static_cast<int>(looks().size()); ++i) {
        auto* button = new QPushButton(QString("%1 %2").arg(i).arg(text(looks()[i].label)));
        button->setProperty("plain", true);
        button->setFont(Look::small());
        button->setFocusPolicy(Qt::NoFocus);
        connect(button, &QPushButton::clicked, this, [this, i] { tick(looks()[i].value); });
        words->addWidget(button);
    }
    words->addStretch(1);
    auto* photo = new QPushButton(tr("Photo of it ..."));
    photo->setObjectName("tourPhoto");
    connect(photo, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("A photo of this part"), {},
                                                          tr("Pictures (*.png *.jpg *.jpeg)"));
        if (!file.isEmpty()) takePhoto(file);
    });
    connect(m_foam, &QPushButton::clicked, this, [this] { emit noted(Uncovered{"foam"}); });
    connect(m_shields, &QPushButton::clicked, this, [this] { emit noted(Uncovered{"shields"}); });
    auto* asked = new QHBoxLayout;
    for (QPushButton* button : {m_foam, m_shields, photo}) {
        button->setProperty("plain", true);
        button->setFont(Look::small());
        asked->addWidget(button);
    }
    asked->addStretch(1);
    auto* left = new QVBoxLayout;
    left->setSpacing(2);
    left->addWidget(m_name);
    left->addWidget(m_about, 1);
    left->addLayout(words);
    left->addLayout(asked);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 2, 10, 2);
    row->addLayout(left, 3);
    row->addWidget(m_list, 1);
    connect(m_list, &QListWidget::itemActivated, this,
            [this](QListWidgetItem* item) { goTo(static_cast<std::size_t>(m_list->row(item))); });
}

void TourPanel::open(CaseSession* session) {
    m_session = session;
    m_way.clear();
    m_current = 0;
    m_list->clear();
    m_photo.clear();
    if (session) connect(session, &CaseSession::changed, this, &TourPanel::show);
}

void TourPanel::begin() {
    if (!m_session) return;
    const Assessment& a = m_session->assessment();
    m_way.clear();
    if (!a.down.nets.empty())
        for (const PartIndex p : tourWay(a.state.board, a.down))
            m_way.push_back(a.state.board.parts[p].designator);
    m_current = 0;
    while (m_current < m_way.size() && a.state.seen.contains(m_way[m_current]))
        ++m_current;
    show();
}

std::string TourPanel::part() const {
    return m_current < m_way.size() ? m_way[m_current] : std::string();
}

void TourPanel::show() {
    if (!m_session || !isVisibleTo(parentWidget())) return;
    const CaseState& state = m_session->assessment().state;
    m_foam->setVisible(!state.uncovered.contains("foam"));
    m_shields->setVisible(!state.uncovered.contains("shields"));
    for (std::size_t i = 0; i < m_way.size(); ++i) {
        const int row = static_cast<int>(i);
        if (row == m_list->count()) m_list->addItem(QString());
        const auto seen = state.seen.find(m_way[i]);
        m_list->item(row)->setText(text(m_way[i]) + (seen == state.seen.end()
                                                         ? QString()
                                                         : "   " + text(labelOf(seen->second.damage))));
    }
    while (m_list->count() > static_cast<int>(m_way.size()))
        delete m_list->takeItem(m_list->count() - 1);
    if (m_way.empty()) {
        m_name->setText(tr("No rail to tour"));
        m_about->setText(tr("Choose the rail that is down, or read the rails first."));
        return;
    }
    if (m_current >= m_way.size()) {
        m_name->setText(tr("Tour done"));
        m_about->setText(tr("%1 parts looked at. Enter on a row looks at it again.").arg(m_way.size()));
        return emit partWanted({});
    }
    const Board& board = state.board;
    const Part& part = board.parts[board.findPart(m_way[m_current])];
    m_name->setText(text(part.designator));
    m_about->setText(
        tr("%1%2, %3 side, %4 of %5. What does the microscope show? Look below foam, tape and labels too: "
           "the part nobody thinks of is often the one.%6")
            .arg(text(labelOf(part.partClass)), part.value.empty() ? QString() : " " + text(part.value),
                 text(labelOf(part.side)))
            .arg(m_current + 1)
            .arg(m_way.size())
            .arg(m_photo.empty() ? QString() : tr(" A photo is ready and goes with the tick.")));
    m_list->setCurrentRow(static_cast<int>(m_current));
    emit partWanted(text(part.designator));
}

void TourPanel::goTo(std::size_t row) {
    m_current = row;
    show();
}

void TourPanel::tick(Damage damage) {
    if (m_current >= m_way.size()) return;
    const std::string part = m_way[m_current++];
    emit noted(Seen{part, damage, "", std::exchange(m_photo, {})});
}

void TourPanel::takePhoto(const QString& file) {
    if (!m_session || part().empty()) return;
    const QDir folder(text((m_session->folder().path / "photos").string()));
    QString name;
    for (int n = 1; name.isEmpty() || QFile::exists(folder.filePath(name)); ++n)
        name = QString("%1-%2.%3").arg(text(part())).arg(n).arg(QFileInfo(file).suffix().toLower());
    if (!folder.mkpath(".") || !QFile::copy(file, folder.filePath(name)))
        return emit said(tr("%1 could not be copied into the case; nothing was noted.").arg(file));
    m_photo = "photos/" + name.toStdString();
    show();
}

void TourPanel::keyPressEvent(QKeyEvent* event) {
    const int digit = event->key() - Qt::Key_0;
    if (event->modifiers() == Qt::NoModifier && digit >= 0 && digit < static_cast<int>(looks().size()))
        return tick(looks()[digit].value);
    QWidget::keyPressEvent(event);
}

} // namespace ustor
