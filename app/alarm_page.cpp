#include "app/alarm_page.h"

#include "app/look.h"
#include "app/tone.h"

#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

namespace ustor {

AlarmPage::AlarmPage(QWidget* parent)
    : QWidget(parent), m_words(new QLabel), m_detail(new QLabel), m_leads(new QPushButton),
      m_sound(new QTimer(this)) {
    setObjectName("alarm");
    constexpr double larger = 1.6;
    QFont words = Look::bold(Look::large());
    words.setPointSizeF(larger * words.pointSizeF());
    m_words->setObjectName("alarmWords");
    m_words->setFont(words);
    m_words->setText(tr("May still be ON: switch it off by hand, pull the leads"));
    m_detail->setFont(Look::text());
    for (QLabel* label : {m_words, m_detail}) {
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignCenter);
        label->setForegroundRole(QPalette::WindowText);
    }
    m_leads->setText(tr("The leads are off the board"));
    m_leads->setObjectName("leadsAreOff");
    connect(m_leads, &QPushButton::clicked, this, &AlarmPage::leadsPulled);
    auto* column = new QVBoxLayout(this);
    column->addStretch(1);
    column->addWidget(m_words);
    column->addSpacing(12);
    column->addWidget(m_detail);
    column->addSpacing(12);
    column->addWidget(m_leads, 0, Qt::AlignCenter);
    column->addStretch(1);
    constexpr int every_ms = 1500;
    m_sound->setInterval(every_ms);
    connect(m_sound, &QTimer::timeout, this, [] {
        constexpr double hz = 1760;
        playTone(hz);
    });
}

void AlarmPage::tell(const QString& detail, bool mayBeSettled) {
    m_detail->setText(detail);
    m_leads->setVisible(mayBeSettled);
}

void AlarmPage::paintEvent(QPaintEvent*) {
    QPainter(this).fillRect(rect(), Look::current().ember);
}

void AlarmPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    QPalette colours = palette();
    colours.setColor(QPalette::WindowText, Look::current().emberText);
    m_words->setPalette(colours);
    m_detail->setPalette(colours);
    m_sound->start();
}

void AlarmPage::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    m_sound->stop();
}

} // namespace ustor
