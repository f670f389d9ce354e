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

class TestCamera : public QObject {
    Q_OBJECT
  private slots:
    void framesInPieces();
    void streamsThatAreNone();
    void streamThatLosesItsStep();
    void replayPlaysARecording();
};
