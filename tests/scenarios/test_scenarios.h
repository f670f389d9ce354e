#pragma once

#include <QObject>

class TestGuard : public QObject {
    Q_OBJECT
  private slots:
    void capHoldsAndNothingPassesWithoutOne();
    void offWithinASecondAndAHalf_data();
    void offWithinASecondAndAHalf();
    void comesBackOffAfterAPulledCable();
    void deafSupplyIsTold();
    void deadGuardIsReplacedAndTheOutputOff();
    void benchThatSleptKeepsInStep();
    void patienceIsForSimulatedBenchesOnly();
    void patientGuardWaitsAndThenSwitchesOff();
};

class TestWalk : public QObject {
    Q_OBJECT
  private slots:
    void findsTheHiddenPart_data();
    void findsTheHiddenPart();
    void pulledCableEndsAnInjectionSafely();
};

class TestCli : public QObject {
    Q_OBJECT
  private slots:
    void exitCodes_data();
    void exitCodes();
    void answersInJson();
    void theWayAndTheWalk();
    void goodBoardsJudge();
    void locatesInARecording();
    void locatesAlongTheCopper();
    void aCaseHasOneWriter();
    void readingsReportsAndPackedCases();
};
