#pragma once

#include <QObject>

class TestScpi : public QObject {
    Q_OBJECT
  private slots:
    void settingsAreCheckedAgainstTheErrorQueue();
    void silenceEndsInATimeOutAndAFreshConnection();
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
    void replayPlaysARecording();
};
