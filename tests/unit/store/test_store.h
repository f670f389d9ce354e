#pragma once

#include <QObject>

class TestFactLog : public QObject {
    Q_OBJECT
  private slots:
    void acceptedFactsAreOnDisk();
    void tornLastLine();
    void unknownKindsAndBadLines();
    void factsOfAnotherBoardAreTold();
    void numbersAreNotGivenTwice();
    void lookedAtWithoutTheLock();
    void aDeletedFolderIsTold();
    void fullDisk();
    void oneWriterAtATime();
    void killedWriterLosesNothing();
};

class TestCasebook : public QObject {
    Q_OBJECT
  private slots:
    void casesAreFoundAgain();
    void indexIsMadeAnewFromFolders();
    void theIndexIsNeverInTheWay_data();
    void theIndexIsNeverInTheWay();
    void anIndexThatIsHeldElsewhere();
    void anIndexThatMayNotBeWritten();
    void goodBoardsAreKeptByModel();
    void thePaceIsKeptByCase();
    void casesThatGrewAreReadAnew();
    void anOlderIndexIsMadeAnew();
    void newerCasesAreLeftAlone();
    void reportIsAPage();
};

class TestArchive : public QObject {
    Q_OBJECT
  private slots:
    void everyByteTravels();
    void anotherProgramReadsIt();
    void badFilesLeaveNothingBehind_data();
    void badFilesLeaveNothingBehind();
    void wholeCasesOnly();
    void bombsAreNotUnpacked();
};
