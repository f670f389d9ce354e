#pragma once

#include <QObject>

class TestMessages : public QObject {
    Q_OBJECT
  private slots:
    void placesAreFilled();
    void whatIsPutInIsNotLookedThrough();
    void anotherLanguageMayTurnTheOrder();
    void numbersHaveTheirOwnText();
    void clausesAreJoined();
    void placesAndNamesAgree();
    void allSentencesAreExtracted();
    void noSentenceIsGlued();
};
