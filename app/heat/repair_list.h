#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "thermal/locate.h"

class QCheckBox;

namespace ustor {

/// What is mended in a recording; each can be left out, to see what it does. What found something to do is
/// bold.
class RepairList : public QWidget {
    Q_OBJECT
  public:
    explicit RepairList(QWidget* parent = nullptr);
    LeftOut leftOut() const;
    void tell(const std::vector<RepairNote>& done);

  signals:
    void changed();

  private:
    QList<QCheckBox*> m_boxes; ///< in the order of `allRepairs`
};

} // namespace ustor
