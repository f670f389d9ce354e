#pragma once

#include <QDialog> // first: Qt 6.4's moc cannot read <compare> before it

namespace ustor {

/// The newest lines of the program's log, to be read or copied.
class LogWindow : public QDialog {
    Q_OBJECT
  public:
    explicit LogWindow(QWidget* parent = nullptr);
};

} // namespace ustor
