#include "app/look.h"

#include "base/check.h"

#include <QApplication>
#include <QFontDatabase>
#include <QImage>
#include <QPainter>
#include <QPalette>

/// Resources of a static library are linked only when somebody asks for them; the macro stands outside of any
/// namespace.
static void takeInFonts() {
    Q_INIT_RESOURCE(resources);
}

namespace ustor {
namespace {

Look g_look; // the one look of the process, set before the first window

const Look day{QColor("#f3ede1"), QColor("#faf6ee"), QColor("#2a2520"), QColor("#6f675b"),
               QColor("#cfc5b3"), QColor("#c2410c"), QColor("#ffffff"), false};
const Look slate{QColor("#1d2327"), QColor("#242b30"), QColor("#e4dfd3"), QColor("#a3a79f"),
                 QColor("#46504f"), QColor("#e0622a"), QColor("#16110d"), true};

QFont sized(int points) {
    QFont font("Lato");
    font.setPointSize(points);
    return font;
}

void apply(QApplication& app, const Look& look) {
    g_look = look;
    QPalette p;
    p.setColor(QPalette::Window, look.paper);
    p.setColor(QPalette::Base, look.plate);
    p.setColor(QPalette::AlternateBase, look.paper);
    p.setColor(QPalette::Button, look.plate);
    for (const auto role :
         {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        p.setColor(role, look.ink);
    p.setColor(QPalette::ToolTipBase, look.plate);
    p.setColor(QPalette::PlaceholderText, look.faint);
    p.setColor(QPalette::Highlight, look.ink);
    p.setColor(QPalette::HighlightedText, look.plate);
    p.setColor(QPalette::Disabled, QPalette::ButtonText, look.faint);
    app.setPalette(p);
    const QString ink = look.ink.name(), plate = look.plate.name(), hair = look.hair.name(),
                  faint = look.faint.name();
    app.setStyleSheet(
        QString(
            "QPushButton{border:1px solid %1;border-radius:0;padding:5px 12px;background:%2;color:%1}"
            "QPushButton:hover{border-width:2px;padding:4px 11px}QPushButton:pressed{background:%3}"
            "QPushButton:focus{border:2px solid %1;padding:4px "
            "11px}QPushButton:disabled{color:%4;border-color:%3}"
            // A line below, not an underline: that one hides the underscores of nets.
            "QPushButton[plain=\"true\"]{border:none;border-bottom:1px solid %1;padding:2px 0 0 0;margin:1px "
            "4px;text-align:left;background:transparent}"
            "QPushButton[plain=\"true\"]:focus{border-bottom:3px solid %1;margin-bottom:-1px}"
            "QPushButton[plain=\"true\"]:disabled{border-bottom-color:%3}"
            "QLineEdit,QComboBox{border:none;border-bottom:2px solid "
            "%1;background:transparent;padding:3px;color:%1}"
            "QListWidget,QScrollArea{border:none;background:transparent}"
            "QScrollBar:vertical{border:none;background:transparent;width:8px}"
            "QScrollBar::handle:vertical{background:%4;min-height:24px;margin:0 2px}"
            "QScrollBar:horizontal{border:none;background:transparent;height:8px}"
            "QScrollBar::handle:horizontal{background:%4;min-width:24px;margin:2px 0}"
            "QScrollBar::add-line,QScrollBar::sub-line{width:0;height:0}"
            "QScrollBar::add-page,QScrollBar::sub-page{background:transparent}"
            "QToolTip{border:1px solid %1;background:%2;color:%1}")
            .arg(ink, plate, hair, faint));
}

/// Draws each character once in each size: the first use of a glyph takes milliseconds, and must not fall
/// into live work.
void warmUp() {
    QString all = QStringLiteral("\u03a9\u00b5\u00b0\u2013\u00b7\u2026");
    for (char16_t c = 32; c < 127; ++c)
        all += QChar(c);
    QFont sentence = Look::text();
    sentence.setPointSize(13);
    QImage paper(64, 32, QImage::Format_RGB32);
    QPainter painter(&paper);
    for (const QFont& font : {Look::small(), Look::text(), Look::large(), sentence, Look::bold(Look::small()),
                              Look::bold(Look::text()), Look::bold(Look::large())}) {
        painter.setFont(font);
        painter.drawText(0, 16, all);
    }
}

} // namespace

const Look& Look::current() {
    return g_look;
}

void Look::install(QApplication& app) {
    app.setStyle("Fusion");
    takeInFonts();
    for (const char* file : {":/fonts/Lato-Regular.ttf", ":/fonts/Lato-Bold.ttf"})
        USTOR_CHECK(QFontDatabase::addApplicationFont(file) >= 0, "the shipped typeface can be read");
    app.setFont(text());
    warmUp();
    const bool dark = app.palette().color(QPalette::Window).lightness() < 128;
    apply(app, dark ? slate : day);
}

void Look::setNight(QApplication& app, bool night) {
    apply(app, night ? slate : day);
}

QFont Look::small() {
    static const QFont font = sized(8);
    return font;
}
QFont Look::text() {
    static const QFont font = sized(10);
    return font;
}
QFont Look::large() {
    static const QFont font = sized(17);
    return font;
}

QFont Look::bold(QFont font) {
    font.setBold(true);
    return font;
}

} // namespace ustor
