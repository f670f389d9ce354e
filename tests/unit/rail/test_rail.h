#pragma once

#include <QObject>

class TestStretch : public QObject {
    Q_OBJECT
  private slots:
    void linksJoinNets();
    void liftedLinksSplit();
    void closedSwitchesJoin();
    void groundIsNeverCrossed();
    void suspectsTouchRailAndGround();
    void lowestVoltageCounts();
    void processorsBehindAreSeen();
    void powerNetsOfTheDemoBoard();
    void handyPlacesLieOnTheRail();
};

class TestPath : public QObject {
    Q_OBJECT
  private slots:
    void convertersAreRecognised();
    void phasesAndUpConverters();
    void theWayFromTheConnector();
    void theJackIsToldFromOtherPlugs();
    void regulatorsAreTold();
    void demoBoardsHaveAWay_data();
    void demoBoardsHaveAWay();
    void siblingsAreBuiltAlike();
    void nearOrFar();
    void walksAreShort();
};

class TestNetwork : public QObject {
    Q_OBJECT
  private slots:
    void seriesAndParallel();
    void islandsAreToldApart();
    void reciprocity();
    void moreCopperNeverRaisesResistance();
    void largeSheetsAreSolvedAsWell();
};

class TestCopperNetwork : public QObject {
    Q_OBJECT
  private slots:
    void strip();
    void plateByImages();
    void viaJoinsLayers();
    void withoutCopperItIsSaid();
    void aCoarseMeterSaysSo();
};
