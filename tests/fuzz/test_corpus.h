#pragma once

#include <QObject>

class TestCorpus : public QObject {
    Q_OBJECT
  private slots:
    void everyFileIsReadOrRefused_data();
    void everyFileIsReadOrRefused();
};
