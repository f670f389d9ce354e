#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/board.h"
#include "session/still_file.h"

class QComboBox;
class QLineEdit;
class QPushButton;

namespace ustor {

/// What a still picture has to be told: what the ends of its scale bar say, which side of the board it shows
/// and where it lies there; and whether what is warmer in it counts as a finding.
class StillRow : public QWidget {
    Q_OBJECT
  public:
    explicit StillRow(QWidget* parent = nullptr);
    /// For this still. `scale`: as known so far; asked for only where `asksScale`.
    void begin(bool asksScale, const std::optional<StillScale>& scale,
               const std::optional<Registration>& place);
    /// What is warmer than in another still may be taken as a finding.
    void offerFinding(bool offered);

  signals:
    void scaleGiven(ustor::StillScale scale);
    void placeWanted(ustor::Side side);
    void findingWanted();
    void said(const QString& words);

  private:
    void takeScale();

    QLineEdit *m_low, *m_high;
    QComboBox* m_side;
    QPushButton *m_place, *m_finding;
};

} // namespace ustor
