#pragma once

#include <QObject>

class TestGerber : public QObject {
    Q_OBJECT
  private slots:
    void areas_data();
    void areas();
    void bothQuadrantModesDrawTheSame();
    void blocksArePlacedTurnedAndMirrored();
    void attributesNameNetsAndPins();
    void rolesOfFiles_data();
    void rolesOfFiles();
    void whatCannotBeReadIsToldAndTheRestKept();
    void aRegionThatCrossesItselfIsLeftOut();
    void hostileInputNeverCrashes();
};

class TestDrills : public QObject {
    Q_OBJECT
  private slots:
    void dialects_data();
    void dialects();
    void slotsAndRepeats();
    void whatCannotBeReadIsToldAndTheRestKept();
};

class TestFabrication : public QObject {
    Q_OBJECT
  private slots:
    void copperTakesTheNetsOfItsPads();
    void otherOriginsAreBroughtTogether();
    void whatNothingPlacesIsPlacedByTwoClicks();
    void placesOnPadsAreCounted();
    void holesAreNotLaidOnPadsWithoutHoles();
    void joinedNetsAreTold();
    void attributesAloneMakeABoard();
    void copperWithoutNamesGetsSome();
    void copperComesBackFromABoardFile();
};
