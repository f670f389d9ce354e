#pragma once

#include <QObject>

class TestLimits : public QObject {
    Q_OBJECT
  private slots:
    void neverAboveTheRail();
    void unknownRailsAreCareful();
    void processorsBehindASwitchAreSpared();
    void longThinLeadsLimitTheCurrent();
    void everyLimitHasAReason();
    void laddersStartLow();
    void fullAtOnceIsOneStep();
    void theClimbKeepsItsPower();
    void smallLinksLimitTheCurrent();
    void noPlanExceedsItsLimits();
    void whatToExpectOfAStep();
};

class TestNewestPulse : public QObject {
    Q_OBJECT
  private slots:
    void whatStandsIsRead();
    void tooShortLeavesTheOneBefore();
};

class TestRandomBoards : public QObject {
    Q_OBJECT
  private slots:
    void noNodeSeesMoreThanItsLimit();
    void theSupervisorKeepsToThePlan();
};

class TestSupervisor : public QObject {
    Q_OBJECT
  private slots:
    void limitsComeBeforeTheOutput();
    void pulsesThenFinishes();
    void eachCauseEndsWithTheOutputOff_data();
    void eachCauseEndsWithTheOutputOff();
    void lateTelemetryIsNoSilence();
    void cameraThatNeverSendsIsLost();
    void picturesThatNobodyLooksAt();
    void outputThatNobodyWants();
    void progressRises();
};
