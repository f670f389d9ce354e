#pragma once

#include <QObject>

class TestScpi : public QObject {
    Q_OBJECT
  private slots:
    void settingsAreCheckedAgainstTheErrorQueue();
    void questionsDoNotPileUpBeforeASlowMeter();
    void silenceEndsInATimeOutAndAFreshConnection();
    void ownSleepIsNotItsSilence();
    void reconnectsAfterACut();
    void lateAnswersAreNotTakenForOthers();
    void supplySwitchesOffWhenItConnects();
    void tripIsSetBeforeTheLevel();
    void meterReadsItsModes();
    void meterThatTalksNonsense();
    void addresses();
};

class TestLinks : public QObject {
    Q_OBJECT
  private slots:
    void addressesReadBack_data();
    void addressesReadBack();
    void wrongAddressesSayWhy_data();
    void wrongAddressesSayWhy();
    void supplyOverEachWay_data();
    void supplyOverEachWay();
    void devicesThatAreNotThere();
    void offOvertakesWhatWaits();
    void onlyItsOwnChannel();
    void withoutAnErrorQueueSettingsAreReadBack();
    void wrongProfilesSayWhy_data();
    void wrongProfilesSayWhy();
    void shippedProfilesAreRead();
};

class TestOutput : public QObject {
    Q_OBJECT
  private slots:
    void whatIsReadCountsAndNotWhatWasAsked();
    void aLostLinkLeavesItUnknown();
    void disobeysAfterItsTime();
    void aHandThatSwitchesItOn();
    void limitsAreReadBackBeforeEachOn_data();
    void limitsAreReadBackBeforeEachOn();
    void limitsThatChangeWhileItIsOn();
    void anotherChannelIsSeen();
    void whatCannotBeReadIsSetAnew();
    void timersOfItsOwnAreSet();
    void aRefusedLimitLetsNothingOn();
    void neitherOnNorOffTellsNothing();
    void whoTalksWithoutPauseHoldsUpNothing();
    void offWaitsBehindNoRead();
    void theLedgerStandsUntilItIsCleared();
    void spoiltLedgersAreTold();
};

class TestV4l2 : public QObject {
    Q_OBJECT
  private slots:
    void sixteenBitGreyIsChosenAmongItsFormats();
    void profileScalesAndCrops();
    void bytesInTheOtherOrder();
    void whatIsNoThermalCamera();
    void tornPicturesAreLeftOut();
    void pulledAndPluggedIn();
    void silenceIsTold();
};

class TestCamera : public QObject {
    Q_OBJECT
  private slots:
    void framesInPieces();
    void streamsThatAreNone();
    void streamThatLosesItsStep();
    void whoCannotKeepUpSeesTheNewest();
};
