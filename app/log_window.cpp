#include "app/log_window.h"

#include "app/look.h"
#include "app/words.h"
#include "session/log.h"

#include <QApplication>
#include <QClipboard>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace ustor {

LogWindow::LogWindow(QWidget* parent) : QDialog(parent) {
    setWindowTitle(tr("What the program did"));
    constexpr int lines = 400, width = 900, height = 560;
    resize(width, height);
    const QStringList newest = Log::newest(lines);
    auto* about = new QLabel(
        Log::file().empty()
            ? tr("No log is kept: its folder cannot be written.")
            : tr("The newest lines of %1. No words that somebody typed stand in it, and no names of folders.")
                  .arg(text(Log::file().string())));
    about->setWordWrap(true);
    about->setFont(Look::small());
    auto* text = new QPlainTextEdit(newest.join('\n'));
    text->setReadOnly(true);
    text->setFont(Look::small());
    text->setObjectName("logLines");
    text->setAccessibleName(tr("Lines of the log"));
    text->moveCursor(QTextCursor::End);
    auto* copy = new QPushButton(tr("Copy all"));
    connect(copy, &QPushButton::clicked, this,
            [newest] { QApplication::clipboard()->setText(newest.join('\n')); });
    auto* column = new QVBoxLayout(this);
    column->addWidget(about);
    column->addWidget(text, 1);
    column->addWidget(copy, 0, Qt::AlignRight);
}

} // namespace ustor
