#pragma once

#include <QObject>

class TestCopper : public QObject {
    Q_OBJECT
  private slots:
    void resistivityOfAnnealedCopper();
    void sheets();
    void leads();
    void vias();
    void traceHeating();
};

class TestLattice : public QObject {
    Q_OBJECT
  private slots:
    void infiniteSquareLattice();
    void infiniteSheet();
    void fosterSum();
};

class TestPlate : public QObject {
    Q_OBJECT
  private slots:
    void exponentialIntegralAndBessel();
    void steadyStateIsTheLimitOfLoss();
    void diffusionLength();
    void simulatedBoardKeepsItsEnergy();
};

class TestNoise : public QObject {
    Q_OBJECT
  private slots:
    void onOffDifference();
    void responseStatesItsOwnNoise();
    void spotsComeNearTheCramerRaoBound();
    void recordingsComeNearTheCramerRaoBound_data();
    void recordingsComeNearTheCramerRaoBound();
};

class TestSpice : public QObject {
    Q_OBJECT
  private slots:
    void sameNetworkSameVoltages();
    void copperSameVoltages();
    void simulatedBoardAgrees();
};

class TestPredictedReadings : public QObject {
    Q_OBJECT
  private slots:
    void readingsAgreeWithSpice();
};

class TestRealBoard : public QObject {
    Q_OBJECT
  private slots:
    void netlistAndCentroidsOfAnIndependentWriter();
    void copperOfAnIndependentWriter();
    void copperOfBoardsFromTheRegistry();
};

class TestMillivolts : public QObject {
    Q_OBJECT
  private slots:
    void theShortIsPlaced_data();
    void theShortIsPlaced();
};

class TestPathHeat : public QObject {
    Q_OBJECT
  private slots:
    void theFaultIsWhatIsLeftOver();
    void linksOfTheOtherSideDoNotCount();
};
