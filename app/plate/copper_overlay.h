#pragma once

#include "board/board.h"
#include "rail/copper_picture.h"

#include <QImage>
#include <QTransform>
#include <vector>

class QPainter;

namespace ustor {

/// Potential and current on the copper of the outer layers, with the scale of the potential.
class CopperOverlay {
  public:
    /// A picture for each layer, top to bottom; none clears it. `words`: what they show.
    void set(std::vector<CopperPicture> pictures, const QString& words);
    /// `toView`: board millimetres to the widget's points; `room`: the widget.
    void paint(QPainter& painter, const QTransform& toView, Side side, const QRect& room) const;

  private:
    void paintFlow(QPainter& painter, const QTransform& toView, const CopperPicture& picture) const;
    void paintScale(QPainter& painter, const QRect& room) const;

    std::vector<CopperPicture> m_pictures;
    std::vector<QImage> m_images;
    double m_top_v = 0;
    QString m_words;
};

} // namespace ustor
