#include "app/sketch/sketch_page.h"

#include "app/look.h"
#include "app/sketch/sketch_canvas.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "board/board_files.h"
#include "board/case_size.h"
#include "board/sketch/beep_nets.h"
#include "board/sketch/footprint.h"
#include "board/sketch/photo_frame.h"

#include <QDragEnterEvent>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QPushButton>
#include <QSaveFile>
#include <QVBoxLayout>
#include <utility>

namespace ustor {
namespace {

/// One key a class: the letter of its designators where it is free.
constexpr std::pair<Qt::Key, PartClass> classKeys[] = {{Qt::Key_C, PartClass::CeramicCapacitor},
                                                       {Qt::Key_T, PartClass::PolarCapacitor},
                                                       {Qt::Key_R, PartClass::Resistor},
                                                       {Qt::Key_L, PartClass::Inductor},
                                                       {Qt::Key_B, PartClass::Ferrite},
                                                       {Qt::Key_F, PartClass::Fuse},
                                                       {Qt::Key_D, PartClass::Diode},
                                                       {Qt::Key_Z, PartClass::ClampDiode},
                                                       {Qt::Key_Q, PartClass::Mosfet},
                                                       {Qt::Key_G, PartClass::Regulator},
                                                       {Qt::Key_U, PartClass::Ic},
                                                       {Qt::Key_P, PartClass::Processor},
                                                       {Qt::Key_J, PartClass::Connector},
                                                       {Qt::Key_S, PartClass::SenseResistor}};

} // namespace

SketchPage::SketchPage(QWidget* parent)
    : QWidget(parent), m_canvas(new SketchCanvas), m_step(new QLabel), m_stamp(new QLabel),
      m_beep(new QLabel), m_clash(new QLabel), m_said(new QLabel), m_counts(new QLabel),
      m_length(new QLineEdit), m_name(new QLineEdit) {
    setAcceptDrops(true);
    layOut();
    connect(m_canvas, &SketchCanvas::pixelClicked, this, &SketchPage::clickCorner);
    connect(m_canvas, &SketchCanvas::boardClicked, this, &SketchPage::stampAt);
    connect(m_canvas, &SketchCanvas::padClicked, this, &SketchPage::pickPad);
    connect(m_length, &QLineEdit::returnPressed, this, [this] { setLength(m_length->text()); });
    connect(m_name, &QLineEdit::returnPressed, this, [this] { nameNet(m_name->text()); });
}

void SketchPage::layOut() {
    const auto button = [this](const QString& words, const char* name, auto slot) {
        auto* made = new QPushButton(words);
        made->setObjectName(name);
        connect(made, &QPushButton::clicked, this, slot);
        return made;
    };
    QFont big = Look::text();
    big.setPointSize(13);
    m_step->setFont(big);
    m_step->setObjectName("sketchStep");
    m_beep->setFont(Look::bold(big));
    m_beep->setObjectName("sketchBeep");
    m_clash->setObjectName("sketchClash");
    m_said->setObjectName("sketchSaid");
    for (QLabel* label : {m_step, m_stamp, m_beep, m_clash, m_said, m_counts})
        label->setWordWrap(true);
    for (QLabel* label : {m_stamp, m_said, m_counts, m_clash})
        label->setFont(Look::small());
    m_length->setObjectName("sketchLength");
    m_length->setPlaceholderText(tr("62, or a case: 1206"));
    m_length->setAccessibleName(tr("Known length in millimetres, or a case code"));
    m_name->setObjectName("sketchName");
    m_name->setPlaceholderText(tr("name of the picked pad's net"));
    m_name->setAccessibleName(tr("Name of the picked pad's net"));
    auto* column = new QVBoxLayout;
    column->setSpacing(6);
    column->addWidget(m_step);
    column->addWidget(button(tr("Photo of the top ..."), "photoTop", [this] { choosePhoto(Side::Top); }));
    column->addWidget(
        button(tr("Photo of the bottom ..."), "photoBottom", [this] { choosePhoto(Side::Bottom); }));
    column->addWidget(m_length);
    column->addWidget(m_stamp);
    column->addWidget(m_beep);
    auto* answers = new QHBoxLayout;
    answers->addWidget(button(tr("Beeps (Y)"), "beepYes", [this] { answer(true); }));
    answers->addWidget(button(tr("Silent (N)"), "beepNo", [this] { answer(false); }));
    column->addLayout(answers);
    column->addWidget(m_name);
    column->addWidget(m_clash);
    column->addStretch(1);
    column->addWidget(m_counts);
    column->addWidget(m_said);
    column->addWidget(button(tr("Start a case on this board"), "sketchCase", [this] { startCase(); }));
    column->addWidget(button(tr("Leave; it is saved"), "sketchLeave", [this] { emit leaveWanted(); }));
    auto* right = new QWidget;
    right->setFixedWidth(310);
    right->setLayout(column);
    auto* row = new QHBoxLayout(this);
    row->addWidget(m_canvas, 1);
    row->addWidget(right);
}

void SketchPage::open(const std::filesystem::path& folder, const QString& name) {
    m_folder = folder;
    m_sketch = {};
    m_sketch.name = name.toStdString();
    m_before.clear();
    m_after.clear();
    m_corners.reset();
    m_images.clear();
    m_picked.clear();
    m_marks.clear();
    m_side = Side::Top;
    std::error_code fault;
    std::filesystem::create_directories(folder, fault);
    QFile file(text((folder / "sketch.json").string()));
    if (file.open(QIODevice::ReadOnly)) {
        auto read = sketchFromJson(file.readAll().toStdString(), "sketch.json");
        if (read)
            m_sketch = std::move(read.value());
        else
            say(text(read.error()));
    }
    show();
    m_canvas->setFocus();
}

void SketchPage::say(const QString& words) {
    m_said->setText(words);
}

void SketchPage::change(const Sketch& next) {
    m_before.push_back(m_sketch);
    m_after.clear();
    m_sketch = next;
    save();
    show();
}

void SketchPage::save() {
    QSaveFile file(text((m_folder / "sketch.json").string()));
    const std::string written = sketchToJson(m_sketch);
    if (!file.open(QIODevice::WriteOnly) || file.write(written.c_str()) < 0 || !file.commit())
        say(tr("The sketch could not be saved: %1").arg(file.errorString()));
}

void SketchPage::undo() {
    if (m_before.empty()) return say(tr("Nothing to undo."));
    m_after.push_back(std::exchange(m_sketch, m_before.back()));
    m_before.pop_back();
    save();
    show();
}

void SketchPage::redo() {
    if (m_after.empty()) return say(tr("Nothing to redo."));
    m_before.push_back(std::exchange(m_sketch, m_after.back()));
    m_after.pop_back();
    save();
    show();
}

void SketchPage::choosePhoto(Side side) {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Photo of the %1 side").arg(text(labelOf(side))), {}, tr("Pictures (*.png *.jpg *.jpeg)"));
    if (!file.isEmpty()) addPhoto(side, file);
}

void SketchPage::addPhoto(Side side, const QString& file) {
    if (QImage(file).isNull())
        return say(
            tr("%1 cannot be read as a picture; nothing was changed.").arg(QFileInfo(file).fileName()));
    const QString name = text(wordOf(side)) + "." + QFileInfo(file).suffix().toLower();
    const QString copy = text((m_folder / name.toStdString()).string());
    if (QFileInfo(copy) != QFileInfo(file)) {
        QFile::remove(copy);
        if (!QFile::copy(file, copy)) return say(tr("%1 cannot be copied into the sketch.").arg(file));
    }
    m_images.erase(copy.toStdString());
    m_corners = Corners{side, copy.toStdString(), {}};
    show();
}

void SketchPage::clickCorner(PixelPoint p) {
    if (!m_corners || m_corners->clicked.size() >= 4) return;
    m_corners->clicked.push_back(p);
    show();
    if (m_corners->clicked.size() == 4) {
        // The second photo shows the same board: its size is known.
        for (const BoardPhoto& photo : m_sketch.photos)
            if (photo.side != m_corners->side) return setLength(QString::number(photo.width_mm));
        m_length->setFocus();
    }
}

void SketchPage::setLength(const QString& typed) {
    const std::string words = typed.trimmed().toStdString();
    const auto body = caseSizeFromPackage(words);
    const auto number = quantityFromText(words);
    const bool isCase = body && footprintOf(words);
    const double length_mm = isCase ? body->length_mm : number.value_or(0);
    constexpr double most_mm = 1000;
    if (length_mm <= 0 || length_mm > most_mm)
        return say(
            tr("\"%1\" is no length. A number in millimetres, or a case code such as 1206.").arg(typed));
    Sketch next = m_sketch;
    if (m_corners && m_corners->clicked.size() == 4) {
        if (isCase)
            return say(
                tr("First the width of the clicked rectangle, roughly; a case can set it right afterwards."));
        BoardPhoto photo;
        photo.side = m_corners->side;
        photo.file = m_corners->file;
        std::copy(m_corners->clicked.begin(), m_corners->clicked.end(), photo.corners.begin());
        const QImage image(text(photo.file));
        const auto aspect = aspectOfRectangle(photo.corners, image.width(), image.height());
        if (!aspect) {
            m_corners->clicked.clear();
            show();
            return say(text(aspect.error()));
        }
        photo.width_mm = length_mm;
        photo.height_mm = length_mm / aspect.value();
        for (const BoardPhoto& other : next.photos)
            if (other.side != photo.side) photo.height_mm = other.height_mm;
        std::erase_if(next.photos, [&](const BoardPhoto& p) { return p.side == photo.side; });
        next.photos.push_back(photo);
        m_side = photo.side;
        m_corners.reset();
        m_length->clear();
        m_canvas->setFocus();
        return change(next);
    }
    if (m_marks.size() != 2) return say(tr("Mark the ends of the known length first: M, then two clicks."));
    const double factor = length_mm / distance_mm(m_marks[0], m_marks[1]);
    for (BoardPhoto& photo : next.photos) {
        photo.width_mm *= factor;
        photo.height_mm *= factor;
    }
    for (Stamp& stamp : next.stamps)
        stamp.at = {stamp.at.x_mm * factor, stamp.at.y_mm * factor};
    m_marks.clear();
    m_marking = false;
    m_length->clear();
    m_canvas->setFocus();
    change(next);
}

void SketchPage::chooseClass(PartClass partClass) {
    m_class = partClass;
    m_case = text(casesFor(partClass).front());
    show();
}

void SketchPage::chooseCase(const QString& code) {
    if (!footprintOf(code.toStdString())) return say(tr("No such case: %1").arg(code));
    m_case = code;
    show();
}

void SketchPage::turnStamp() {
    m_turn_deg = m_turn_deg == 0 ? 90 : 0;
    show();
}

void SketchPage::stampAt(BoardPoint at) {
    if (m_marking) {
        if (m_marks.size() == 2) m_marks.clear();
        m_marks.push_back(at);
        show();
        if (m_marks.size() == 2) m_length->setFocus();
        return;
    }
    if (m_sketch.photos.empty()) return say(tr("A photo first, or its size: nothing gives the scale yet."));
    Sketch next = m_sketch;
    const auto stamped = stamp(next, m_class, m_case.toStdString(), m_side, at, m_turn_deg);
    if (!stamped) return say(text(stamped.error()));
    change(next);
    say(tr("%1 is down.").arg(text(stamped.value())));
}

void SketchPage::pickPad(const QString& place) {
    if (m_marking) return;
    if (m_picked.size() >= 2) m_picked.clear();
    m_picked.push_back(place.toStdString());
    show();
}

void SketchPage::answer(bool connected) {
    Sketch next = m_sketch;
    if (m_picked.size() == 2)
        next.beeps.push_back({m_picked[0], m_picked[1], connected});
    else if (!m_proposedA.isEmpty())
        next.beeps.push_back({m_proposedA.toStdString(), m_proposedB.toStdString(), connected});
    else
        return say(tr("Pick two pads first."));
    m_picked.clear();
    change(next);
}

void SketchPage::nameNet(const QString& name) {
    if (m_picked.empty() || name.trimmed().isEmpty())
        return say(tr("Pick a pad of the net, then type its name."));
    Sketch next = m_sketch;
    next.names[m_picked.back()] = name.trimmed().toStdString();
    m_picked.clear();
    m_name->clear();
    m_canvas->setFocus();
    change(next);
}

void SketchPage::turnOver() {
    m_side = otherSide(m_side);
    show();
}

QImage SketchPage::photoOf(Side side) {
    for (const BoardPhoto& photo : m_sketch.photos) {
        if (photo.side != side) continue;
        QImage& image = m_images[photo.file];
        if (image.isNull()) image = QImage(text(photo.file));
        return image;
    }
    return {};
}

void SketchPage::propose() {
    const BeepNets nets(m_sketch);
    const auto proposals = m_sketch.stamps.size() > 1 ? nets.proposals(1) : std::vector<BeepProposal>{};
    m_proposedA = proposals.empty() ? QString() : text(proposals.front().a);
    m_proposedB = proposals.empty() ? QString() : text(proposals.front().b);
    if (m_picked.size() == 2)
        m_beep->setText(tr("Does %1 beep with %2?").arg(text(m_picked[0]), text(m_picked[1])));
    else if (!proposals.empty())
        m_beep->setText(tr("Does %1 beep with %2?").arg(m_proposedA, m_proposedB));
    else
        m_beep->setText({});
    QString clashes;
    for (const BeepClash& clash : nets.clashes()) {
        const Beep& no = m_sketch.beeps[clash.denied];
        QStringList chain;
        for (const std::size_t i : clash.joining)
            chain << tr("%1 with %2").arg(text(m_sketch.beeps[i].a), text(m_sketch.beeps[i].b));
        clashes += tr("Clash: %1 was silent with %2, but these beeped: %3. Undo what was wrong. ")
                       .arg(text(no.a), text(no.b), chain.join(", "));
    }
    m_clash->setText(clashes);
}

void SketchPage::show() {
    if (m_corners) {
        QImage& image = m_images[m_corners->file];
        if (image.isNull()) image = QImage(text(m_corners->file));
        m_canvas->showPhoto(image, m_corners->clicked);
        static const char* const corner[] = {QT_TR_NOOP("upper left"), QT_TR_NOOP("upper right"),
                                             QT_TR_NOOP("lower right"), QT_TR_NOOP("lower left")};
        m_step->setText(m_corners->clicked.size() < 4
                            ? tr("Click the %1 corner of the board, or of any rectangle on it.")
                                  .arg(tr(corner[m_corners->clicked.size()]))
                            : tr("How wide is that rectangle, in millimetres?"));
    } else {
        m_canvas->showSketch(&m_sketch, m_side, photoOf(m_side));
        m_canvas->setPicked(m_picked);
        m_canvas->setMarks(m_marks);
        m_step->setText(
            m_sketch.photos.empty()
                ? tr("Choose a photo of the top, straight from above as well as you can, or drop it here.")
            : m_marking
                ? tr("Click both ends of a known length, then type it.")
                : tr("Stamp the parts of the %1 side, then answer the beeps.").arg(text(labelOf(m_side))));
    }
    QStringList cases;
    const auto offered = casesFor(m_class);
    for (std::size_t i = 0; i < offered.size(); ++i)
        cases << QString("%1 %2").arg(i + 1).arg(text(offered[i]));
    m_stamp->setText(
        tr("Stamp: %1, %2, %3 (E turns it). Cases: %4.\n"
           "Keys: C ceramic, T polar capacitor, R resistor, S sense, L inductor, B ferrite, F fuse, D diode, "
           "Z clamp, Q mosfet, G regulator, U chip, P processor, J connector; O other side, M measure, "
           "Enter stamps at the cross, Backspace takes back.")
            .arg(text(labelOf(m_class)), m_case, m_turn_deg == 0 ? tr("lying") : tr("upright"),
                 cases.join(", ")));
    m_counts->setText(tr("%1 parts, %2 beeps").arg(m_sketch.stamps.size()).arg(m_sketch.beeps.size()));
    propose();
}

void SketchPage::startCase() {
    const auto file = m_folder / "board.board.json";
    if (m_sketch.stamps.empty()) return say(tr("Stamp a part first: an empty board helps nobody."));
    if (const auto written = writeBoardFile(boardOf(m_sketch), file); !written)
        return say(text(written.error()));
    emit caseWanted(text(file.string()), text(m_sketch.name));
}

void SketchPage::keyPressEvent(QKeyEvent* event) {
    if (event->modifiers() & Qt::ControlModifier) return QWidget::keyPressEvent(event);
    for (const auto& [key, partClass] : classKeys)
        if (event->key() == key) return chooseClass(partClass);
    const auto cases = casesFor(m_class);
    if (const int digit = event->key() - Qt::Key_1; digit >= 0 && digit < static_cast<int>(cases.size()))
        return chooseCase(text(cases[static_cast<std::size_t>(digit)]));
    switch (event->key()) {
    case Qt::Key_E:
        return turnStamp();
    case Qt::Key_O:
        return turnOver();
    case Qt::Key_Y:
        return answer(true);
    case Qt::Key_N:
        return answer(false);
    case Qt::Key_M:
        m_marking = !m_marking;
        m_marks.clear();
        return show();
    case Qt::Key_Backspace:
        return undo();
    default:
        return QWidget::keyPressEvent(event);
    }
}

void SketchPage::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void SketchPage::dropEvent(QDropEvent* event) {
    // The first photo is the top, the second the bottom.
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile())
            return addPhoto(m_sketch.photos.empty() ? Side::Top : Side::Bottom, url.toLocalFile());
}

} // namespace ustor
