#pragma once

#include <QObject>

class TestIpcD356 : public QObject {
    Q_OBJECT
  private slots:
    void columnsOfTheStandard();
    void unitsAndSigns();
    void longNamesViasAndSkippedRecords();
    void outlineRepeatsWhatIsLeftOut();
    void brokenLinesAreToldAndTheRestKept();
    void nothingReadableIsAnError();
    void hostileInputNeverCrashes();
};

class TestCentroids : public QObject {
    Q_OBJECT
  private slots:
    void dialects_data();
    void dialects();
    void rowsThatCannotBeRead();
    void otherOriginIsBroughtTogether();
    void mirroredBottomIsBroughtTogether();
    void partsWithoutPadsAreAdded();
};

class TestLists : public QObject {
    Q_OBJECT
  private slots:
    void pinListDialects_data();
    void pinListDialects();
    void brokenRowsAreToldAndTheRestKept();
    void writtenListsComeBack_data();
    void writtenListsComeBack();
    void whatANetlistCannotHoldIsTold();
};

class TestIpc2581 : public QObject {
    Q_OBJECT
  private slots:
    void shapesCoverWhatTheyShould_data();
    void shapesCoverWhatTheyShould();
    void shapesByReferenceAndPolarity();
    void boardsComeBack_data();
    void boardsComeBack();
    void brokenFilesAreToldByLine();
};

class TestBoardJson : public QObject {
    Q_OBJECT
  private slots:
    void comesBackAsItWent();
    void namesTellVoltages();
    void errorsNameThePlace_data();
    void errorsNameThePlace();
    void filesAreToldByTheirContent();
    void photosCarryNoOtherFile();
    void numbersThatNoBoardHas();
    void writingNeverLeavesHalfAFile();
};

class TestGuesses : public QObject {
    Q_OBJECT
  private slots:
    void classes_data();
    void classes();
    void nominalVoltages_data();
    void nominalVoltages();
    void grounds();
    void caseSizes();
    void placesAreFound();
};

class TestSketch : public QObject {
    Q_OBJECT
  private slots:
    void perspectiveIsRemoved();
    void aspectOfATiltedRectangle();
    void badCornersAreToldApart();
    void beepsMakeNets();
    void clashesNameTheAnswers();
    void proposalsSettleABoard();
    void comesBackFromItsFile();
};
