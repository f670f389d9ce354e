#pragma once

#include <QObject>

class TestGuard : public QObject {
    Q_OBJECT
  private slots:
    void capHoldsAndNothingPassesWithoutOne();
    void comesBackOffAfterAPulledCable();
    void deafSupplyIsTold();
    void benchThatSleptKeepsInStep();
    void patienceIsForSimulatedBenchesOnly();
};

class TestSafety : public QObject {
    Q_OBJECT
  private slots:
    void offWithinASecond_data();
    void offWithinASecond();
    void aSupplyThatHearsNoOffDisobeys();
    void aCableThatComesBackLater();
    void aGuardThatEndsAtOnceIsNotStartedWithoutEnd();
    void whatIsLeftOnIsSettledByTheNextProgram();
    void aSupplyWithItsOwnTimerSwitchesItselfOff();
    void nothingComesOnWithoutALedger();
    void theGuardOutlivesAWindowThatCloses();
    void aSleepIsNoSilenceOfTheClock();
};

class TestWalk : public QObject {
    Q_OBJECT
  private slots:
    void findsTheHiddenPart_data();
    void findsTheHiddenPart();
    void pulledCableEndsAnInjectionSafely();
    void everyStopCauseEndsWithTheOutputOff_data();
    void everyStopCauseEndsWithTheOutputOff();
    void aClipThatIsOffAcquitsNobody();
    void whatFlaresIsFoundWithNothingTold();
};

class TestCli : public QObject {
    Q_OBJECT
  private slots:
    void exitCodes_data();
    void exitCodes();
    void theWindowTellsItsOptionsWithoutADisplay();
    void answersInJson();
    void theWayAndTheWalk();
    void goodBoardsJudge();
    void locatesInARecording();
    void readsStills();
    void locatesAlongTheCopper();
    void probesInstruments_data();
    void probesInstruments();
    void aCaseHasOneWriter();
    void assessTellsMovesAndWhatIsLeftOut();
    void aCaseWithoutTheWindow();
    void answersKeepTheirSchemas();
    void readingsReportsAndPackedCases();
};
