#pragma once

#include <QObject>

class TestBase : public QObject {
    Q_OBJECT
  private slots:
    void entriesAsTyped_data();
    void entriesAsTyped();
    void entriesThatAreNone();
    void overRangeIsAState();
    void textForTheEye();
    void numbersIgnoreTheLocale();
    void csvDialects();
    void randomIsSeededAndNormal();
    void unitsMultiplyAsTheyShould();
    void errorsReadAsOneLine();
};
