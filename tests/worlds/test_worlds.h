#pragma once

#include <QObject>

class TestOtherBench : public QObject {
    Q_OBJECT
  private slots:
    void everyBoardIsDeadAndOnesRepairedStart();
    void aShortReadsAsItIs();
};

class TestPlay : public QObject {
    Q_OBJECT
  private slots:
    void huntsEndAndLeaveNothingInside();
    void aHuntWithoutAnEndIsStopped();
    void aMeterAloneIsEnoughToPlay();
    void habitsArePlayedToo();
};

class TestCalibration : public QObject {
    Q_OBJECT
  private slots:
    void scoresByHand();
    void theJudgeIsNoMoreSureThanRight();
};
