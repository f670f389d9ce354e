#pragma once

#include <QObject>

class TestGuard : public QObject {
    Q_OBJECT
  private slots:
    void capHoldsAndNothingPassesWithoutOne();
    void offWithinASecond_data();
    void offWithinASecond();
    void comesBackOffAfterAPulledCable();
    void deafSupplyIsTold();
    void deadGuardIsReplacedAndTheOutputOff();
    void benchThatSleptKeepsInStep();
    void patienceIsForSimulatedBenchesOnly();
    void guardOverASerialLine();
    void patientGuardWaitsAndThenSwitchesOff();
};

class TestWalk : public QObject {
    Q_OBJECT
  private slots:
    void findsTheHiddenPart_data();
    void findsTheHiddenPart();
    void pulledCableEndsAnInjectionSafely();
    void everyStopCauseEndsWithTheOutputOff_data();
    void everyStopCauseEndsWithTheOutputOff();
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
    void readsStills();
    void locatesAlongTheCopper();
    void probesInstruments_data();
    void probesInstruments();
    void aCaseHasOneWriter();
    void readingsReportsAndPackedCases();
};
