#include "app/case_list.h"
#include "app/words.h"

#include <QDateTime>
#include <utility>

namespace ustor {

void CaseList::show(std::vector<CaseEntry> cases) {
    beginResetModel();
    m_cases = std::move(cases);
    endResetModel();
}

int CaseList::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_cases.size());
}

QVariant CaseList::data(const QModelIndex& index, int role) const {
    const CaseEntry& entry = m_cases[static_cast<std::size_t>(index.row())];
    switch (role) {
    case Qt::DisplayRole:
        return text(entry.title);
    case FolderRole:
        return text(entry.folder.string());
    case StatusRole:
        return text(entry.status + (entry.culprit.empty() ? "" : ": " + entry.culprit));
    case BoardRole:
        return text(entry.board) + ", " +
               QDateTime::fromMSecsSinceEpoch(static_cast<qint64>(entry.changed_s * 1000))
                   .toString("d MMM yyyy, HH:mm");
    case ComplaintRole:
        return text(entry.complaint);
    case Qt::AccessibleTextRole: {
        QStringList all;
        for (const int part : {static_cast<int>(Qt::DisplayRole), static_cast<int>(StatusRole),
                               static_cast<int>(BoardRole), static_cast<int>(ComplaintRole)})
            all << data(index, part).toString();
        return all.join(", ");
    }
    default:
        return {};
    }
}

} // namespace ustor
