#pragma once

#include <QObject>

class TestWindow : public QObject {
    Q_OBJECT
  private slots:
    void emptyStartSaysWhatToDo();
    void badFilesAreToldAndNothingIsLost();
    void readingsAreTypedAndTakenBack();
    void movesSetPlaceAndMode();
    void factsOfTheTradeAreTyped();
    void wrongEntriesAreToldAndKept();
    void caseIsFoundAgain();
    void boardCanBeWalkedByKeyboard();
    void kindAndVoltageAreCorrected();
    void markedPartTakesWhatWasDone();
    void caseTravelsInOneFile();
    void undoInTheEntryTakesTheFactBack();
    void escapeLeavesTheLine();
    void spaceGoesOnFromAnEmptyLine();
    void nextTellsWhatALiftTaughtAndWhatASchoolCosts();
    void everyViewFitsASmallScreen();
    void everySuspectIsReachedOnASmallScreen();
    void theFirstOpenOfAWiredMeterIsAskedAgain();
    void aCaseOpenElsewhereIsLookedAt();
    void aLongTrailBringsItsEarlierFacts();
    void theLogIsShown();
    void textIsReadable();
    void figuresAreTabular();
};

class TestPanels : public QObject {
    Q_OBJECT
  private slots:
    void cameraIsAlignedByKeyboard();
    void lostCameraSaysSo();
    void cautionComesFirst();
    void suspectsOpenTheirEvidence();
    void heatLiesWhereItBelongs();
    void padsAndPartsAreClicked();
    void aVictimHasCorners();
    void stripStaysFlatOnNoise();
    void outputOffTellsItsState();
    void entryLineHasNames();
};

class TestDemo : public QObject {
    Q_OBJECT
  private slots:
    void playedToItsEndThroughTheWindow();
    void escapeSwitchesOffFromAnywhere();
    void aSupplyWithoutRemoteIsSwitchedByHand();
    void aPulledCableIsAnAlarm();
    void whatIsLeftOnIsAnAlarmOnThePageOfCases();
    void closingInTheMiddleLosesNothing();
    void aCutOffInjectionIsToldWhenTheCaseIsOpened();
};

class TestKilled : public QObject {
    Q_OBJECT
  private slots:
    void supplyGoesOffAndNoFactIsLost_data();
    void supplyGoesOffAndNoFactIsLost();
};

class TestViews : public QObject {
    Q_OBJECT
  private slots:
    void surveyIsTypedThrough();
    void tourIsTickedByKeys();
    void pathShowsWhatIsDown();
    void shortIsPlacedAlongTheCopper();
    void splitFreesOneSide();
    void knownGoodComesInAndGoesOut();
    void aClosedCaseTeachesThePace();
};

class TestHeatPage : public QObject {
    Q_OBJECT
  private slots:
    void stillsAreTypedAndCompared();
    void surfacesArePainted();
    void wrongStillsAreTold();
    void stillsArePlacedAndCount();
};

class TestAlignPage : public QObject {
    Q_OBJECT
  private slots:
    void twoClicksPlaceADrillFile();
    void aFileCanStayWhereItLies();
};

class TestSketchPage : public QObject {
    Q_OBJECT
  private slots:
    void fromTwoPhotosToAShort();
    void wrongInputIsTold();
};
