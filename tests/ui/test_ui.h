#pragma once

#include <QObject>

class TestWindow : public QObject {
    Q_OBJECT
  private slots:
    void emptyStartSaysWhatToDo();
    void badFilesAreToldAndNothingIsLost();
    void readingsAreTypedAndTakenBack();
    void wrongEntriesAreToldAndKept();
    void caseIsFoundAgain();
    void boardCanBeWalkedByKeyboard();
    void kindAndVoltageAreCorrected();
    void markedPartTakesWhatWasDone();
    void caseTravelsInOneFile();
    void textIsReadable();
    void figuresAreTabular();
};

class TestDemo : public QObject {
    Q_OBJECT
  private slots:
    void playedToItsEndThroughTheWindow();
    void escapeSwitchesOffFromAnywhere();
};

class TestKilled : public QObject {
    Q_OBJECT
  private slots:
    void supplyGoesOffAndNoFactIsLost_data();
    void supplyGoesOffAndNoFactIsLost();
};
