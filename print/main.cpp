// Sets a page that comes in as HTML on paper: `ustor-print TITLE X.pdf < page.html`. A program of its own, so
// that what only computes needs no fonts, and a page that takes long holds nothing up.

#include <QFile>
#include <QGuiApplication>
#include <QPageSize>
#include <QPdfWriter>
#include <QTextDocument>
#include <cstdio>

namespace {

constexpr int wrongUse = 2, notWritten = 3;
constexpr int dotsPerInch = 96;

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen"); // no window is opened
    const QGuiApplication qt(argc, argv);
    const QStringList words = QGuiApplication::arguments();
    if (words.size() != 3) {
        std::fprintf(stderr, "usage: ustor-print TITLE X.pdf < page.html\n");
        return wrongUse;
    }
    QFile in;
    if (!in.open(stdin, QIODevice::ReadOnly)) return wrongUse;
    QFile out(words[2]);
    if (!out.open(QIODevice::WriteOnly)) {
        std::fprintf(stderr, "%s\n", qPrintable(out.errorString()));
        return notWritten;
    }
    {
        QPdfWriter writer(&out);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setTitle(words[1]);
        writer.setCreator("Ustor");
        writer.setResolution(dotsPerInch);
        QTextDocument page;
        page.setHtml(QString::fromUtf8(in.readAll()));
        page.setPageSize(QSizeF(writer.width(), writer.height()));
        page.print(&writer);
    }
    if (!out.flush() || out.error() != QFileDevice::NoError) {
        std::fprintf(stderr, "%s\n", qPrintable(out.errorString()));
        return notWritten;
    }
    return 0;
}
