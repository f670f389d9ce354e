#pragma once

#include <QStackedWidget>

namespace ustor {

/// Pages of which only the one that shows is asked how tall its wrapped words are: to ask all of them takes a
/// layout of every hidden word whenever anything changes.
class Pages : public QStackedWidget {
  public:
    using QStackedWidget::QStackedWidget;
    /// Of the page that is shown: a large one that is not must not keep the window from a small screen.
    QSize minimumSizeHint() const override {
        return currentWidget() ? currentWidget()->minimumSizeHint().expandedTo(currentWidget()->minimumSize())
                               : QSize();
    }
    bool hasHeightForWidth() const override {
        return currentWidget() && currentWidget()->hasHeightForWidth();
    }
    int heightForWidth(int width) const override {
        return currentWidget() ? currentWidget()->heightForWidth(width) : -1;
    }
};

} // namespace ustor
