#pragma once

#include <QColor>
#include <QFont>

class QApplication;

namespace ustor {

/// The engraved plate: ink on warm paper by day, pale lines on slate by night. Ember means energised and
/// nothing else.
struct Look {
    QColor paper, plate, ink, faint, hair, ember, emberText;
    bool night = false;

    static const Look& current();
    /// Follows the system's setting (its palette) and installs fonts and palette once, before the first
    /// window.
    static void install(QApplication& app);
    /// For pictures and tests.
    static void setNight(QApplication& app, bool night);

    /// Three sizes, in points: small for labels, text, large for the numbers that are read from afar.
    static QFont small();
    static QFont text();
    static QFont large();
    static QFont bold(QFont font);
};

} // namespace ustor
