#pragma once

#include <QObject>

class TestTrade : public QObject {
    Q_OBJECT
  private slots:
    void casesOfTheTrade();
};
