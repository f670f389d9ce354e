#pragma once

#include <QAbstractListModel> // first: Qt 6.4's moc cannot read <compare> before it

#include "store/case_summary.h"

namespace ustor {

/// The cases that were found, for a list.
class CaseList : public QAbstractListModel {
  public:
    enum Role { FolderRole = Qt::UserRole, StatusRole, BoardRole, ComplaintRole };

    using QAbstractListModel::QAbstractListModel;
    void show(std::vector<CaseEntry> cases);
    int rowCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;

  private:
    std::vector<CaseEntry> m_cases;
};

} // namespace ustor
