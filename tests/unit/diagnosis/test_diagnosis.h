#pragma once

#include <QObject>

class TestFacts : public QObject {
    Q_OBJECT
  private slots:
    void everyKindComesBackAsItWent();
    void unknownKindsAreKept();
    void unknownWordsAreKept();
    void factsAreAskedAtTheDoor_data();
    void factsAreAskedAtTheDoor();
    void goodFactsPassTheDoor();
    void badLinesAreErrors();
    void strikingAndBringingBack();
    void undoAndRedo();
    void readingsAsCsv();
};

class TestEntry : public QObject {
    Q_OBJECT
  private slots:
    void everyExampleIsTaken();
    void wrongEntriesSayWhatIsNeeded_data();
    void wrongEntriesSayWhatIsNeeded();
    void placesAndValues();
};

class TestStory : public QObject {
    Q_OBJECT
  private slots:
    void wordsOfComplaints();
    void wrongSourcesGoThroughTheClamp();
    void coursesOfCurrent_data();
    void coursesOfCurrent();
    void donorsSettleCoreRails();
    void leadsAreTakenOff();
    void readingsUnderPowerAreSetAside();
    void whatDriesFirst_data();
    void whatDriesFirst();
    void aBridgeOpenedIsFound();
    void aCutTraceIsSaid();
    void itFailsAgain();
    void onePlugTwoWays();
    void whatTheJobPays();
    void everyStoryMovesTheOddsAsTheTradeSays_data();
    void everyStoryMovesTheOddsAsTheTradeSays();
};

class TestFold : public QObject {
    Q_OBJECT
  private slots:
    void oneByOneAndAtOnce();
    void anotherListIsFoldedAnew();
    void knownGoodThatComesLater();
    void saidTwiceIsNoSecondWitness();
};

class TestRailRules : public QObject {
    Q_OBJECT
  private slots:
    void readingsOfTheTrade_data();
    void readingsOfTheTrade();
    void kindsOfRails();
};

class TestReadingJudge : public QObject {
    Q_OBJECT
  private slots:
    void tableOfTheTrade_data();
    void tableOfTheTrade();
    void otherPlacesOfTheNetSpeak();
    void reversedLeadsNeedAGoodBoard();
    void warmthPasses();
    void knownGoodComesFromDonorsAndProvenRepairs();
    void knownGoodAsCsv();
};

class TestSuspects : public QObject {
    Q_OBJECT
  private slots:
    void entropyAndOverflow();
    void oddsSumToOneAndWeightsAddUp();
    void heatPointsAtThePart();
    void whatCarriedNothingDidNotWarm();
    void heatGoesOnBehindAPunchedSwitch();
    void aCoreBesideAPunchedSwitchIsWarmByItself();
    void heatOfABodyDiodeIsAShortBeforeIt();
    void stillsSayLessThanAnInjection();
    void partsInThePathExplainTheirHeat();
    void damageMovesTheOddsAndProvesNothing();
    void whatWasLiftedAndDidNotHelpIsCleared();
    void theFirstOfTwoStaysGuilty();
    void theShortWentWithTheLastPart();
    void healthyReadingsAcquitNoCulprit();
    void aPartThatBringsTheShortBackIsNotCleared();
    void whatMayHaveBroughtTheShortBackIsNotCleared();
    void oneRailHealedIsNotTheEnd();
    void assessmentIsPure();
    void nextMovesFollowTheWork();
    void aSwitchThatConductsJoinsTheRails();
    void otherSideIsFacedWhenThisOneDoesNotSettle();
    void voltageIsRaisedOnlyWhenNothingShowed();
    void trailNamesTheNet();
    void switchesGoTogether();
    void correctedClassCounts();
    void aCorrectedBoardIsJudgedAsIfDrawnSo();
};

class TestBelief : public QObject {
    Q_OBJECT
  private slots:
    void enumerationAgrees();
    void coreRailsAreNotHunted();
    void aPunchedSwitchIsFound();
    void nearlyNothingAcrossASwitchIsTheSwitch();
    void anOpenInductorIsFound();
    void theOnlyMissingRailIsTheFault();
    void theFirstPlugInNarrowsIt();
    void siblingsSettleWhatARuleCannot();
    void noOrderCostsLess();
};

class TestSplit : public QObject {
    Q_OBJECT
  private slots:
    void linkThatHalvesTheDoubt();
    void parallelLinksGoTogether();
    void theShortStaysWithOneSide();
    void unpluggedBoardsAreFree();
    void steadyReadings();
    void millivoltsAreEvidence();
};

class TestGuidance : public QObject {
    Q_OBJECT
  private slots:
    void whatALiftTaught();
    void whatIsOffIsToldFirst();
    void lookingBackIsTheSameHoweverTheFactsCame();
    void minutesByTheTrail();
    void anHourThatBroughtNothingIsSaid();
    void theTrailsClockStopsTheHunt();
    void theShopsOwnPaceCounts();
    void thePaceReadsBack();
    void theChosenSchoolComesFirst_data();
    void theChosenSchoolComesFirst();
    void whatHasToComeFirstStays();
};

class TestCare : public QObject {
    Q_OBJECT
  private slots:
    void nothingComesOffForARailThatWasNotRead();
    void whatShortsOnlyUnderVoltage();
    void whatTheSupplyShowsIsAWitness();
    void aFlareUnderItsOwnPower();
    void theShortBehindABlownFuse();
    void anOpenLinkHidesWhatIsBehindIt();
    void whatShowsAgainIsNoSecondWitness();
    void anOpenGateSaysNothing();
    void coreRailsTellByNextToNothing();
    void puttingBackIsCounted();
    void aDriverStandsInTheWay();
    void theLowerSwitchMayBeOpen();
    void noEndBeforeTheVoltsWereRead();
};

class TestWay : public QObject {
    Q_OBJECT
  private slots:
    void aFuseBehindTheShortIsNoVictim();
    void voltsBehindAFuseAcquitIt();
    void anOpenCoilShowsOnItsTwoSides();
    void aChipThatTakesSeveralRails();
    void whatIsOffIsMeasuredByItself();
    void whatTheBoardGivesAwayIsARail();
    void pulsesAreWatched();
};

class TestPocket : public QObject {
    Q_OBJECT
  private slots:
    void aConverterThatRaisesIsTold();
    void theMainSupplyIsNotLowByNature();
    void aBoardStartsWithWhatLeadsToAPlugShorted();
    void aBurntFuseOfABranch();
    void whatCameOffIsNotGuiltyByASlip();
};

class TestMetamorphic : public QObject {
    Q_OBJECT
  private slots:
    void orderOfIndependentFacts();
    void struckOutIsNeverNoted();
    void relabelledOrMovedBoards();
    void whatAllPredictAlikeMovesNothing();
    void aShortThatStaysNeverAccuses();
};
