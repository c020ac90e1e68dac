#include "desk/clean_dialog.h"

#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "desk/model/point_model.h"

namespace cvane::desk {

namespace {
QString useWords(campaign::Holding::Use use) {
    switch (use) {
        case campaign::Holding::Use::Present:
            return QObject::tr("present settings");
        case campaign::Holding::Use::Earlier:
            return QObject::tr("an earlier run of the same");
        case campaign::Holding::Use::Other:
            return QObject::tr("other settings, or an earlier solver");
    }
    return {};
}

QString megabytes(std::uintmax_t bytes) {
    return QObject::tr("%1 MB").arg(1e-6 * static_cast<double>(bytes), 0, 'f', 1);
}
}  // namespace

CleanDialog::CleanDialog(Document& d, QWidget* parent) : QDialog(parent), document_(d), job_(*this, d.pool()) {
    setObjectName("cleanDialog");
    setWindowTitle(tr("Space that runs and grids take"));
    resize(760, 460);
    auto* column = new QVBoxLayout(this);
    auto* head = new QLabel(
        tr("Nothing computed is deleted but here. What belongs to other settings comes back when they go back."));
    head->setWordWrap(true);
    column->addWidget(head);
    table_ = new QTableWidget(0, 4);
    table_->setObjectName("holdings");
    table_->setHorizontalHeaderLabels({tr("what"), tr("size"), tr("belongs to"), tr("run as")});
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->verticalHeader()->hide();
    table_->setSelectionMode(QAbstractItemView::NoSelection);
    column->addWidget(table_, 1);
    auto* row = new QHBoxLayout;
    for (const auto& [text, use] : {std::pair(tr("Tick earlier runs"), campaign::Holding::Use::Earlier),
                                    std::pair(tr("Tick other settings"), campaign::Holding::Use::Other)}) {
        auto* b = new QPushButton(text);
        connect(b, &QPushButton::clicked, this, [this, use = use] { tick(use); });
        row->addWidget(b);
    }
    row->addStretch(1);
    words_ = new QLabel(tr("Reading\u2026"));
    words_->setObjectName("cleanWords");
    row->addWidget(words_);
    column->addLayout(row);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    delete_ = buttons->addButton(tr("Delete what is ticked for good"), QDialogButtonBox::ActionRole);
    delete_->setObjectName("deleteTicked");
    delete_->setEnabled(false);
    connect(delete_, &QPushButton::clicked, this, &CleanDialog::deleteTicked);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    connect(table_, &QTableWidget::itemChanged, this, &CleanDialog::count);
    read();
}

void CleanDialog::read() {
    job_.start(
        [c = document_.base()](const auto&) {
            try {
                return campaign::holdingsOf(c);
            } catch (const std::exception&) {
                return std::vector<campaign::Holding>{};
            }
        },
        [this](std::vector<campaign::Holding> holdings) { fill(std::move(holdings)); });
}

void CleanDialog::fill(std::vector<campaign::Holding> holdings) {
    holdings_ = std::move(holdings);
    const QSignalBlocker quiet(table_);
    table_->setRowCount(static_cast<int>(holdings_.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto& h = holdings_[static_cast<std::size_t>(i)];
        const bool run = h.kind == campaign::Holding::Kind::Run;
        auto* first = new QTableWidgetItem((run ? tr("run %1") : tr("grid %1")).arg(QString::fromStdString(h.name)));
        first->setFlags(h.atWork ? Qt::NoItemFlags : Qt::ItemIsEnabled | Qt::ItemIsUserCheckable);
        first->setCheckState(Qt::Unchecked);
        table_->setItem(i, 0, first);
        auto* size = new QTableWidgetItem(megabytes(h.bytes));
        size->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        const QString as =
            run ? QStringList{axisWords(h.point, PointAxis::Speed, document_.settings().units),
                              axisWords(h.point, PointAxis::Alpha, {}), axisWords(h.point, PointAxis::Beta, {}),
                              axisWords(h.point, PointAxis::Configuration, {}),
                              axisWords(h.point, PointAxis::SetUp, {})}
                      .join(", ")
                : QString();
        int column = 1;
        for (auto* item :
             {size, new QTableWidgetItem(h.atWork ? tr("at work") : useWords(h.use)), new QTableWidgetItem(as)}) {
            item->setFlags(Qt::ItemIsEnabled);
            table_->setItem(i, column++, item);
        }
    }
    count();
}

void CleanDialog::tick(campaign::Holding::Use use) {
    for (int i = 0; i < table_->rowCount(); ++i)
        if (const auto& h = holdings_[static_cast<std::size_t>(i)]; h.use == use && !h.atWork)
            table_->item(i, 0)->setCheckState(Qt::Checked);
}

void CleanDialog::count() {
    std::uintmax_t all = 0, ticked = 0;
    for (int i = 0; i < table_->rowCount() && i < static_cast<int>(holdings_.size()); ++i) {
        const auto bytes = holdings_[static_cast<std::size_t>(i)].bytes;
        all += bytes;
        if (table_->item(i, 0) && table_->item(i, 0)->checkState() == Qt::Checked) ticked += bytes;
    }
    words_->setText(ticked > 0 ? tr("%1 of %2 ticked").arg(megabytes(ticked), megabytes(all))
                               : tr("%1 in all").arg(megabytes(all)));
    delete_->setEnabled(ticked > 0);
}

void CleanDialog::deleteTicked() {
    for (int i = 0; i < table_->rowCount(); ++i)
        if (table_->item(i, 0)->checkState() == Qt::Checked) {
            try {
                campaign::remove(document_.base(), holdings_[static_cast<std::size_t>(i)]);
            } catch (const std::exception& e) {
                emit document_.problem(e.what());
            }
        }
    document_.refreshAll();
    read();
}

}  // namespace cvane::desk
