#pragma once

#include <QObject>

class TestWorld : public QObject {
    Q_OBJECT
  private slots:
    void currentAndVoltageLimitsBehave();
    void overVoltageTrips();
    void meterReadsWhatTheProbesTouch();
    void liftingTakesTheShortAway();
    void liftingALinkSplitsTheRail();
    void theFaultWarmsAndThePathToo();
    void allPowerBecomesHeatWhereItArises();
    void farSideIsLateAndWide();
    void sameSeedSamePicture();
};

class TestScpiServer : public QObject {
    Q_OBJECT
  private slots:
    void shortAndLongForms_data();
    void shortAndLongForms();
    void errorQueue();
    void commonCommands();
};
