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
    void textIsReadable();
    void figuresAreTabular();
};

class TestDemo : public QObject {
    Q_OBJECT
  private slots:
    void playedToItsEndThroughTheWindow();
    void escapeSwitchesOffFromAnywhere();
};
