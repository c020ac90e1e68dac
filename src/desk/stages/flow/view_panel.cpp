#include "desk/stages/flow/view_panel.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <algorithm>

#include "base/errors.h"
#include "command/action.h"
#include "desk/save_file.h"

namespace cvane::desk {

ViewPanel::ViewPanel(Document& d, Canvas& canvas, std::function<std::vector<campaign::FlowItem>()> itemsNow)
    : QGroupBox(tr("Views and pictures")), document_(d), canvas_(canvas), itemsNow_(std::move(itemsNow)) {
    setObjectName("viewPanel");
    pool_.setMaxThreadCount(1);
    auto* form = new QFormLayout(this);
    form->setContentsMargins(0, 6, 0, 0);
    form->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    const auto box = [](const char* name, const QStringList& words) {
        auto* b = new QComboBox;
        b->setObjectName(name);
        b->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        b->setMinimumContentsLength(8);
        b->addItems(words);
        return b;
    };
    panes_ = box("flowPanes",
                 {tr("the selected point"), tr("two points"), tr("four points"), tr("difference on the walls")});
    panes_->setToolTip(
        tr("Ctrl+click tiles of the point board to choose which; the difference is the first less the "
           "second"));
    form->addRow(tr("Show"), panes_);
    connect(panes_, &QComboBox::activated, this, &ViewPanel::panesChanged);
    views_ = box("flowViews", {});
    views_->setToolTip(tr("Camera, items and colours that were kept; choosing one shows it"));
    form->addRow(tr("Kept views"), views_);
    connect(views_, &QComboBox::activated, this, [this](int at) { showView(views_->itemText(at)); });
    auto* buttons = new QHBoxLayout;
    auto* keepIt = new QPushButton(tr("Keep this view\u2026"));
    keepIt->setObjectName("keepView");
    auto* forget = new QPushButton(tr("Take it out"));
    forget->setObjectName("removeView");
    buttons->addWidget(keepIt, 1);
    buttons->addWidget(forget);
    form->addRow(buttons);
    connect(keepIt, &QPushButton::clicked, this, [this] {
        const QString name =
            QInputDialog::getText(this, tr("Keep this view"), tr("Its name"), QLineEdit::Normal, views_->currentText());
        if (!name.trimmed().isEmpty()) keep(name.trimmed());
    });
    connect(forget, &QPushButton::clicked, this, [this] {
        auto s = document_.settings();
        std::erase_if(s.views, [&](const auto& v) { return v.name == views_->currentText().toStdString(); });
        document_.change(tr("take out a view"), s, "Flow");
    });
    what_ = box("pictureOf",
                {tr("the selected point"), tr("every point that has been run"), tr("a film through the points"),
                 tr("a film of a slice that moves"), tr("a film around the model")});
    form->addRow(tr("Draw"), what_);
    size_ = box("pictureSize", {"1280x720", "1920x1080", "3840x2160", "7680x4320"});
    size_->setEditable(true);
    size_->setCurrentIndex(1);
    form->addRow(tr("Pixels"), size_);
    auto* drawing = new QHBoxLayout;
    draw_ = new QPushButton(tr("Into files\u2026"));
    draw_->setObjectName("drawPictures");
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName("stopPictures");
    stop_->setEnabled(false);
    drawing->addWidget(draw_, 1);
    drawing->addWidget(stop_);
    form->addRow(drawing);
    words_ = new QLabel;
    words_->setObjectName("pictureWords");
    words_->setWordWrap(true);
    words_->setProperty("role", "note");
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    form->addRow(words_);
    connect(draw_, &QPushButton::clicked, this, &ViewPanel::askAndDraw);
    connect(stop_, &QPushButton::clicked, this, [this] { job_.cancel(); });
    d.when(Change::Settings | Change::Campaign, this, [this] { fill(); });
    d.when(Change::Campaign, this, [this] {
        job_.forget();
        words_->clear();
        panes_->setCurrentIndex(0);
    });
}

ViewPanel::~ViewPanel() {
    job_.forget();
    pool_.waitForDone();
}

void ViewPanel::fill() {
    const auto& views = document_.settings().views;
    const QString now = views_->currentText();
    views_->clear();
    for (const auto& v : views) views_->addItem(QString::fromStdString(v.name));
    views_->setCurrentIndex(std::max(views.empty() ? -1 : 0, views_->findText(now)));
    views_->setEnabled(!views.empty());
}

void ViewPanel::keep(const QString& name) {
    if (!document_.isOpen()) return;
    const auto c = canvas_.camera();
    campaign::SavedView v;
    v.name = name.toStdString();
    v.eye = c.eye;
    v.focus = c.focus;
    v.up = c.up;
    v.height = c.height;
    v.perspective = c.perspective;
    v.items = itemsNow_();
    auto s = document_.settings();
    std::erase_if(s.views, [&](const auto& old) { return old.name == v.name; });
    s.views.push_back(v);
    document_.change(tr("keep a view"), s, "Flow");
    views_->setCurrentIndex(views_->findText(name));
}

void ViewPanel::showView(const QString& name) {
    for (const auto& v : document_.settings().views) {
        if (v.name != name.toStdString()) continue;
        canvas_.setCamera({v.eye, v.focus, v.up, v.height, v.perspective});
        auto s = document_.settings();
        if (s.flowItems == v.items || v.items.empty()) return;
        s.flowItems = v.items;
        document_.change(tr("show a view that was kept"), s, "Flow");
        return;
    }
}

void ViewPanel::askAndDraw() {
    if (!document_.isOpen()) return;
    const QString folder = QString::fromStdString(document_.base().folder().parent_path().string());
    const QString file = what_->currentIndex() >= 2
                             ? askWhereToSaveFilm(this, tr("Pictures"), folder + "/film")
                             : askWhereToSave(this, tr("Pictures"), folder + "/flow.png", tr("Pictures (*.png)"));
    if (!file.isEmpty()) draw(file);
}

void ViewPanel::say(const QString& text) {
    QMetaObject::invokeMethod(
        this,
        [this, text] {
            if (job_.running()) words_->setText(text);
        },
        Qt::QueuedConnection);
}

void ViewPanel::draw(const QString& file) {
    if (job_.running()) return;
    const auto list = [](const Vec3& v) { return nlohmann::json{v.x(), v.y(), v.z()}; };
    const auto c = canvas_.camera();
    nlohmann::json asked = {{"campaign", document_.base().folder().string()},
                            {"out", file.toStdString()},
                            {"size", size_->currentText().toStdString()},
                            {"eye", list(c.eye)},
                            {"focus", list(c.focus)},
                            {"up", list(c.up)},
                            {"height", c.height}};
    if (c.perspective) asked["perspective"] = true;
    const int what = what_->currentIndex();
    const bool ofOne = what == 0 || what > 2;
    if (ofOne && !document_.selected()) {
        emit document_.problem(tr("No point is selected. Click a tile of the point board."));
        return;
    }
    if (ofOne) asked["point"] = document_.selected()->name();
    if (what == 1) asked["all"] = true;
    if (what >= 2) asked["through"] = what == 2 ? "points" : what == 3 ? "slice" : "turn";
    draw_->setEnabled(false);
    stop_->setEnabled(true);
    words_->setText(tr("Opening the flow\u2026"));
    job_.start(
        [this, asked, action = what >= 2 ? "film" : "picture"](const Job<Told>::Wanted& wanted) {
            QString warnings;
            try {
                const auto made = command::perform(action, asked, [&](const nlohmann::json& news) {
                                      if (news.contains("doing"))
                                          say(tr("%1 (%2 %)")
                                                  .arg(QString::fromStdString(news["doing"]))
                                                  .arg(100.0 * news.value("progress", 0.0), 0, 'f', 0));
                                      if (news.contains("warning"))
                                          warnings += QString::fromStdString(news["warning"]) + "\n";
                                      return wanted();
                                  }).value;
                const auto& files = made.at("files");
                const QString first = QString::fromStdString(files.at(0).get<std::string>());
                return Told{warnings +
                            (made.contains("film")
                                 ? tr("The film is %1.").arg(QString::fromStdString(made["film"].get<std::string>()))
                             : files.size() == 1 ? tr("Drawn: %1").arg(first)
                                                 : tr("%1 pictures from %2 on.").arg(files.size()).arg(first))};
            } catch (const base::Cancelled&) {
                return Told{tr("Stopped. The pictures that were drawn are kept.")};
            } catch (const std::exception& e) {
                return Told{warnings + e.what()};
            }
        },
        [this](const Told& told) {
            words_->setText(told.text);
            draw_->setEnabled(true);
            stop_->setEnabled(false);
        });
}

}  // namespace cvane::desk
