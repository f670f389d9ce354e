#pragma once

#include <QObject>

class TestCaseSession : public QObject {
    Q_OBJECT
  private slots:
    void assessmentFollowsEachFact();
    void severalFactsTellOnce();
    void aLargeCaseIsJudgedBeside();
    void aFullDiskKeepsWhatWasWritten();
    void undoRedoAndStrikes();
    void whatAFactDidCanBeSeen();
    void aBegunInjectionIsFoundAgain();
    void aSpoiltNoteOfABegunInjectionIsTold();
};

class TestHeatWorker : public QObject {
    Q_OBJECT
  private slots:
    void framesWaitForThePowerOfTheirTime();
    void liveAndRecordedSayTheSame();
    void aFullDiskDoesNotEndTheSearch();
    void framesWithoutTimeAreLeftOutAndCounted();
    void aHandIsLeftOutWhileItGoesOn();
    void beatsStandForASilentSupply();
    void timeLeftIsTold();
    void factsOfARun_data();
    void whatTheSupplyShowedIsNoted();
    void factsOfARun();
};

class TestClocks : public QObject {
    Q_OBJECT
  private slots:
    void queuesDoNotShiftTheClock();
    void aSlowClockIsFollowed();
    void aStandstillIsMadeUpFor();
    void aDeviceStartedAnewIsMatchedAnew();
    void landmarksLieFarApartOnTheirSide();
};

class TestReplay : public QObject {
    Q_OBJECT
  private slots:
    void aRecordingIsPlayedAsItCame();
};

class TestSurveyWork : public QObject {
    Q_OBJECT
  private slots:
    void walksTakesSkipsAndGoesBack();
    void steadyReadingsAreTakenOnce();
    void jitterOfAShortIsNoLiftedProbe();
    void aClosedCaseIsNotRead();
    void aWarmBoardIsAskedAgain();
};

class TestHeatStudy : public QObject {
    Q_OBJECT
  private slots:
    void mapsAndCourses();
    void exportsOpenElsewhere();
};

class TestStills : public QObject {
    Q_OBJECT
  private slots:
    void coloursGiveTheirTemperatures_data();
    void coloursGiveTheirTemperatures();
    void numbersOfManyFiles();
    void picturesOfEachKind_data();
    void picturesOfEachKind();
    void mapsAreWrittenAsPictures();
    void wrongFilesAreTold();
    void differenceShowsWhatWarmed();
    void nothingWarmedIsNothing();
};

class TestLog : public QObject {
    Q_OBJECT
  private slots:
    void linesAreKeptByLevel();
    void oldLinesGoAndNobodyWaits();
    void aFolderThatCannotBeWritten();
    void placesAreLeftOut();
};

class TestSleep : public QObject {
    Q_OBJECT
  private slots:
    void theMachineIsKeptAwakeWhileEnergised();
    void whereNobodyCanBeAskedItIsTold();
};
