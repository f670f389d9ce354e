#pragma once

#include <QObject>

class TestRecording : public QObject {
    Q_OBJECT
  private slots:
    void comesBackAsItWent();
    void neverOverwrites();
    void brokenFoldersAreErrors();
    void wrongTimesLeaveTheOthers_data();
    void wrongTimesLeaveTheOthers();
    void cutOffFramesAreToldAndTheRestKept();
    void tooLargeIsReadInPart();
    void powerBetweenReadings();
};

class TestRepair : public QObject {
    Q_OBJECT
  private slots:
    void frozenFramesAreLeftOut();
    void jumpsAndDriftAreTakenOut();
    void eachCanBeLeftOut();
    void allAtOnceAsOneByOne();
};

class TestRegistration : public QObject {
    Q_OBJECT
  private slots:
    void fourLandmarksFixAPlane();
    void moreLandmarksTellTheirResidual();
    void badLandmarksAreErrors();
    void comesBackAsItWent();
};

class TestLongStream : public QObject {
    Q_OBJECT
  private slots:
    void asMuchMemoryAfterAnHour();
};

class TestFrameSums : public QObject {
    Q_OBJECT
  private slots:
    void sumsAreThoseOfEachTerm();
};

class TestSpotBand : public QObject {
    Q_OBJECT
  private slots:
    void blursAreGaussians_data();
    void blursAreGaussians();
    void deviationIsThatOfNoise();
};

class TestPowerEvidence : public QObject {
    Q_OBJECT
  private slots:
    void noiseIsFDistributed();
    void heatIsThePowersAndSwayIsNot();
};

class TestLocate : public QObject {
    Q_OBJECT
  private slots:
    void onePointAtMilliwatts();
    void throughShutterAndDrift();
    void clocksApart();
    void twoPoints();
    void nothingIsNone();
    void noPowerIsAnError();
    void statedSigmaIsHonest();
};

class TestMotion : public QObject {
    Q_OBJECT
  private slots:
    void subPixelShiftsAreFound();
    void smallStepsAreFollowedAsAWalk();
    void largePicturesToo();
    void movingBackDrawsParabolasExactly();
    void aSceneWithoutEdgesStandsStill();
    void aHandDoesNotPull();
    void mirrorsThatTurnColdAreNoMotion();
};

class TestPassing : public QObject {
    Q_OBJECT
  private slots:
    void aSleeveCountsOnlyWhereAndWhileItIs();
    void aHandWithTheFirstPulsesIsSeen();
    void whatFollowsThePowerStays();
    void aSourceUnderASleeveIsStillFound();
    void whatWasNotSeenIsLessSure();
};

class TestSwitching : public QObject {
    Q_OBJECT
  private slots:
    void timesOfRenderedPulses();
    void unevenSwitchingWithoutASupply_data();
    void unevenSwitchingWithoutASupply();
    void noiseIsNotASwitch();
};

class TestHeatMaps : public QObject {
    Q_OBJECT
  private slots:
    void delayGrowsWithDistanceAsInAPlate();
    void eachShowsTheSource();
    void aProfileIsWhatLiesOnTheLine();
};

class TestEmissivity : public QObject {
    Q_OBJECT
  private slots:
    void bandAgainstTheTable();
    void whatIsSeenComesBack();
    void metalTopsAreBlind();
};

class TestHeatScenes : public QObject {
    Q_OBJECT
  private slots:
    void plateKeepsItsEnergy();
    void heatCrossesAsThroughASlab();
    void heatStaysWhereItIsPut();
    void whatMirrorsShareIsTakenOut();
    void peopleAreNotFooled_data();
    void peopleAreNotFooled();
};

class TestSwayingScenes : public QObject {
    Q_OBJECT
  private slots:
    void plateIsThatOfTheLineSource();
    void peopleWhoSwayFoolNobody_data();
    void peopleWhoSwayFoolNobody();
};
