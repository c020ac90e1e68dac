#include "desk/stage_rail.h"

#include <QLabel>
#include <QScrollArea>
#include <QShortcut>
#include <QVBoxLayout>
#include <algorithm>

namespace cvane::desk {

StageRail::StageRail(std::vector<Stage*> stages, QWidget* parent) : QWidget(parent), stages_(std::move(stages)) {
    setObjectName("stageRail");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 4, 8);
    column->setSpacing(2);
    for (int i = 0; i < static_cast<int>(stages_.size()); ++i) {
        // A caption where the next group of the work begins.
        const auto group = stages_[static_cast<std::size_t>(i)]->group();
        if (i == 0 || group != stages_[static_cast<std::size_t>(i - 1)]->group()) {
            const QString names[] = {tr("Shape"), tr("Tunnel"), tr("Work"), tr("Reading")};
            auto* caption = new QLabel(names[static_cast<int>(group)]);
            caption->setProperty("role", "note");
            caption->setIndent(8);
            column->addWidget(caption);
            if (group != Stage::Group::Shape) ofTunnel_.push_back(caption);
        }
        auto* b = new QPushButton;
        b->setObjectName("stage" + stages_[static_cast<std::size_t>(i)]->title());
        b->setCheckable(true);
        b->setAutoExclusive(true);
        b->setFlat(true);
        b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        b->setMinimumHeight(5 * fontMetrics().height() / 2);
        b->setProperty("role", "step");
        connect(b, &QPushButton::clicked, this, [this, i] { emit chosen(i); });
        auto* key = new QShortcut(QKeySequence(QString("Alt+%1").arg(keyOf(static_cast<std::size_t>(i)))), this);
        key->setContext(Qt::WindowShortcut);
        connect(key, &QShortcut::activated, this, [this, i] {
            if (!buttons_[static_cast<std::size_t>(i)]->isHidden()) emit chosen(i);
        });
        buttons_.push_back(b);
        column->addWidget(b);
        if (group != Stage::Group::Shape) ofTunnel_.push_back(b);
    }
    folded_ = new QLabel(tr("Tunnel, runs and readings come with a model: bring one in at Model."));
    folded_->setObjectName("foldedStages");
    folded_->setProperty("role", "note");
    folded_->setWordWrap(true);
    folded_->setIndent(8);
    folded_->hide();
    column->addWidget(folded_);
    column->addStretch(1);
    setFixedWidth(28 * fontMetrics().averageCharWidth() + 24);
    refresh();
}

QString StageRail::keyOf(std::size_t stage) const {
    if (const QChar own = stages_[stage]->ownKey(); !own.isNull()) return own;
    static const QString keys = "1234567890R";
    const auto before = std::count_if(stages_.begin(), stages_.begin() + static_cast<std::ptrdiff_t>(stage),
                                      [](auto* s) { return s->ownKey().isNull(); });
    return keys.at(static_cast<qsizetype>(before));
}

void StageRail::setFolded(bool folded) {
    for (QWidget* w : ofTunnel_) w->setVisible(!folded);
    folded_->setVisible(folded);
}

void StageRail::setCurrent(int index) {
    buttons_[static_cast<std::size_t>(index)]->setChecked(true);
    showCurrent();
}

void StageRail::showCurrent() {
    const auto current = std::find_if(buttons_.begin(), buttons_.end(), [](auto* b) { return b->isChecked(); });
    for (auto* w = parentWidget(); w && current != buttons_.end(); w = w->parentWidget())
        if (auto* area = qobject_cast<QScrollArea*>(w)) area->ensureWidgetVisible(*current);
}

void StageRail::refresh() {
    // Open, full and half circle; running; open where nothing is asked of the user.
    static const QString marks[] = {"\u25cb", "\u25cf", "\u25d1", "\u25b6", "\u25cc", "\u25cc", "\u25cb"};
    for (std::size_t i = 0; i < stages_.size(); ++i) {
        const auto state = stages_[i]->state();
        const QString words[] = {tr("needs you"), tr("ready"),       tr("out of date"),  tr("at work"),
                                 tr("optional"),  tr("after a run"), tr("needs a model")};
        const QString& word = words[static_cast<int>(state)];
        const QString figure = stages_[i]->keyFigure();
        const QString below = figure.isEmpty() ? word : figure;
        buttons_[i]->setText(QString("%1  %2 %3\n     %4")
                                 .arg(keyOf(i))
                                 .arg(stages_[i]->title(), marks[static_cast<int>(state)], below));
        buttons_[i]->setToolTip(tr("%1: %2 (key %3)").arg(stages_[i]->title(), word).arg(keyOf(i)));
        buttons_[i]->setAccessibleName(tr("%1, %2").arg(stages_[i]->title(), word));
    }
}

}  // namespace cvane::desk
