#include "desk/window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QDropEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMessageBox>
#include <QMimeData>
#include <QScrollArea>
#include <QScrollBar>
#include <QSplitter>
#include <QStatusBar>
#include <QTimer>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "campaign/settings/field.h"
#include "desk/clean_dialog.h"
#include "desk/field_names.h"
#include "desk/help/help_window.h"
#include "desk/message_line.h"
#include "desk/model/point_model.h"
#include "desk/point_board.h"
#include "desk/setting_words.h"
#include "desk/stages/outline/outline_stage.h"
#include "desk/stages/sections_stage.h"
#include "desk/stages/stages.h"
#include "desk/stages/wing/wing_stage.h"
#include "desk/start/card.h"
#include "desk/start/first_steps.h"
#include "desk/start/new_model_dialog.h"
#include "desk/start/start_page.h"
#include "desk/start/user_settings.h"
#include "desk/undo_keys.h"
#include "desk/variant_picker.h"
#include "desk/wheel_guard.h"
#include "desk/wind_line.h"
#include "grid/air_box.h"
#include "solid/solid_file.h"

namespace cvane::desk {

Window::Window() {
    setWindowTitle("Crisp Vane");
    resize(1280, 800);
    setAcceptDrops(true);
    middle_ = new Middle;
    for (const auto& make : stageMakers()) stages_.push_back(make(document_, *middle_, queue_));
    sheets_ = new QStackedWidget;
    for (Stage* s : stages_) {
        s->setParent(this);
        auto* scroll = new QScrollArea;
        scroll->setWidget(s->sheet());
        keepWheelForScrolling(*s->sheet());
        nameFields(*s->sheet());
        scroll->setWidgetResizable(true);
        scroll->setFrameShape(QFrame::NoFrame);
        scroll->setFocusPolicy(Qt::NoFocus);  // its fields take the focus and come into view by it
        scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        sheets_->addWidget(scroll);
    }
    sheets_->setMinimumWidth(44 * fontMetrics().averageCharWidth());
    rail_ = new StageRail(stages_);
    board_ = new PointBoard(*new PointModel(document_), queue_);
    variants_ = new VariantPicker(document_);

    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(middle_);
    across->addWidget(sheets_);
    across->setStretchFactor(0, 1);
    across->setSizes({760, 330});
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(across);
    down->addWidget(board_);
    down->setStretchFactor(0, 1);
    down->setSizes({600, 130});
    connect(down, &QSplitter::splitterMoved, this, [this] { boardByHand_ = true; });
    connect(board_, &PointBoard::fits, this, [this, down](int height) {
        constexpr double kMost = 0.28;  // of the window
        if (boardByHand_ || down->height() <= 0) return;
        const int own = std::min(height, static_cast<int>(kMost * down->height()));
        down->setSizes({down->height() - own, own});
    });
    auto* row = new QWidget;
    auto* rowLayout = new QHBoxLayout(row);
    rowLayout->setContentsMargins(0, 0, 0, 0);
    rowLayout->setSpacing(0);
    auto* left = new QVBoxLayout;
    left->setSpacing(0);
    left->addWidget(variants_);
    // Eleven steps are higher than a small window.
    auto* rail = new QScrollArea;
    rail->setWidget(rail_);
    rail->setWidgetResizable(true);
    rail->setFrameShape(QFrame::NoFrame);
    rail->setFocusPolicy(Qt::NoFocus);
    rail->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    rail->setFixedWidth(rail_->width());
    // A scroll bar takes nothing from the words, and the step that is shown stays in sight as the window gets shorter.
    connect(rail->verticalScrollBar(), &QScrollBar::rangeChanged, rail, [this, rail](int, int most) {
        rail->setFixedWidth(rail_->width() + (most > 0 ? rail->verticalScrollBar()->sizeHint().width() : 0));
        rail_->showCurrent();
    });
    left->addWidget(rail, 1);
    rowLayout->addLayout(left);
    rowLayout->addWidget(down, 1);
    auto* all = new QWidget;
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* wind = new WindLine(document_);
    connect(wind, &WindLine::said, this, &Window::say);
    column->addWidget(wind);
    column->addWidget(row, 1);
    start_ = new StartPage;
    connect(start_, &StartPage::wantsModel, this, &Window::newCampaign);
    connect(start_, &StartPage::wantsSections, this, &Window::newForSections);
    connect(start_, &StartPage::wantsWing, this, &Window::newForWing);
    connect(start_, &StartPage::wantsOutline, this, &Window::newForOutline);
    connect(start_, &StartPage::wantsOpen, this, &Window::openCampaign);
    connect(start_, &StartPage::opens, &document_, &Document::open);
    central_ = new QStackedWidget;
    central_->addWidget(start_);
    central_->addWidget(all);
    central_->setCurrentIndex(1);
    setCentralWidget(central_);
    message_ = new MessageLine;
    message_->say(tr("F1 explains the work in its order."));
    statusBar()->addWidget(message_, 1);
    need_ = new Card("needCard");
    middle_->addCard(need_);
    auto* first = new Card("firstSteps");
    middle_->addCard(first);
    firstSteps_ =
        new FirstSteps(document_, queue_, *first,
                       {[this](const QString& stage) { goTo(stage); }, [this] { return saveFirstPicture(); }});
    firstSteps_->setParent(this);

    passUndoOn(*this);
    makeMenus();
    hearDocument();
    goTo("Model");
}

// A field that still has the focus gives it up, and what is typed in it to the document, while there is one.
Window::~Window() {
    hide();
}

void Window::say(const QString& text) {
    message_->say(text);
}

void Window::showSurroundings() {
    auto& around = middle_->canvas().surroundings();
    const bool placed = document_.modelReady() && document_.base().hasModel();
    const auto& point = document_.selected();
    around.setWind(placed && point ? std::optional(campaign::windOf(document_.settings(), point->condition).dragAxis())
                                   : std::nullopt);
    std::optional<double> ground;
    if (placed && document_.settings().tunnel.floor != grid::Floor::None) {
        try {
            ground = grid::tunnelBox(document_.tunnel(), document_.measures().bounds).low.z();
        } catch (const base::InputError&) {
            // The stage Tunnel says what is wrong.
        }
    }
    around.setGround(ground, placed ? document_.measures().bounds : Box());
    middle_->canvas().refresh();
}

void Window::hearDocument() {
    document_.when(Change::Settings | Change::Model | Change::Selection | Change::Campaign, this,
                   [this] { showSurroundings(); });
    connect(&middle_->canvas(), &Canvas::measured, this, [this](const Vec3& a, const Vec3& b) {
        const auto& unit = document_.isOpen() ? document_.settings().units.length : std::string("m");
        const Vec3 d = (b - a) / base::unitNamed(base::lengthUnits(), unit).inSI;
        say(tr("%1 %2 apart: %3 along x, %4 along y, %5 along z.")
                .arg(d.norm(), 0, 'g', 5)
                .arg(QString::fromStdString(unit))
                .arg(d.x(), 0, 'g', 4)
                .arg(d.y(), 0, 'g', 4)
                .arg(d.z(), 0, 'g', 4));
    });
    connect(qApp, &QApplication::focusChanged, this, [this](QWidget*, QWidget* now) { sayWhatIsAtStake(now); });
    connect(rail_, &StageRail::chosen, this, qOverload<int>(&Window::goTo));
    connect(&document_, &Document::said, this, &Window::say);
    connect(&document_, &Document::problem, this, [this](const QString& s) { message_->warn(withLabels(s)); });
    // What was wrong is behind the user with the next step that is taken.
    connect(&document_.undoStack(), &QUndoStack::indexChanged, message_, &MessageLine::forgetWarning);
    document_.when(Change::Campaign, this, [this] {
        setWindowTitle(QString::fromStdString(document_.settings().name) + " \u2014 Crisp Vane");
        message_->say(tr("Campaign %1").arg(QString::fromStdString(document_.campaign().folder().string())));
        framed_ = false;
        hadModel_ = document_.base().hasModel();
        central_->setCurrentIndex(1);
        UserSettings::noteCampaign(QString::fromStdString(document_.base().folder().string()));
        board_->setVisible(document_.base().hasModel());
        rail_->setFolded(!document_.base().hasModel());
        if (!document_.base().hasModel()) goTo("Sections");
    });
    // A wing may be built where there was no model, and undone again.
    document_.when(Change::Settings, this, [this] {
        if (!document_.isOpen()) return;
        rail_->setFolded(!document_.base().hasModel());
        if (!document_.base().hasModel()) board_->hide();
        if (document_.base().hasModel() && !hadModel_) board_->show();
        hadModel_ = document_.base().hasModel();
    });
    document_.when(Change::Model, this, [this] {
        stages_[static_cast<std::size_t>(current_)]->show();
        if (!document_.modelReady()) return;
        // The model fills the view once; from then on the camera is the user's, unless another unit has put it out of
        // sight.
        constexpr double kOtherUnit = 3.0;
        const double size = document_.measures().bounds.size().norm();
        if (framed_ && size < kOtherUnit * framedSize_ && framedSize_ < kOtherUnit * size) return;
        middle_->canvas().lookFrom(view::Look::Oblique, document_.measures().bounds);
        framed_ = true;
        framedSize_ = size;
        // One that has no picture yet gets one once it has been drawn.
        constexpr int kOnceDrawn_ms = 3000;
        if (!QFileInfo::exists(previewFile(QString::fromStdString(document_.base().folder().string()))))
            QTimer::singleShot(kOnceDrawn_ms, this, &Window::keepPreview);
    });
    document_.when(~Changes(), this, [this] {
        rail_->refresh();
        showNeed();
    });
    connect(&document_, &Document::stageWanted, this, qOverload<const QString&>(&Window::goTo));
    connect(&document_, &Document::placeWanted, this, [this](const Vec3& place) {
        goTo("Flow");
        middle_->canvas().pointAt(place);
    });
    connect(&queue_, &RunQueue::changed, this, &Window::showNeed);
    connect(&document_, &Document::undoneAt, this, qOverload<const QString&>(&Window::goTo));
}

void Window::cleanUp() {
    if (!document_.isOpen()) return;
    CleanDialog(document_, this).exec();
}

void Window::goTo(int stage) {
    if (stage < 0 || stage >= stages()) return;
    stages_[static_cast<std::size_t>(current_)]->setCurrent(false);
    if (auto* next = stages_[static_cast<std::size_t>(stage)]; next->draws()) {
        for (Stage* other : stages_) other->showScene(other == next);
    }
    current_ = stage;
    stages_[static_cast<std::size_t>(stage)]->setCurrent(true);
    sheets_->setCurrentIndex(stage);
    rail_->setCurrent(stage);
    stages_[static_cast<std::size_t>(stage)]->show();
    rail_->refresh();
    showNeed();
}

void Window::sayWhatIsAtStake(const QWidget* field) {
    if (!field || !document_.isOpen() || field->window() != this || !field->property(kAffects).isValid()) return;
    const auto affects = static_cast<campaign::Affects>(field->property(kAffects).toInt());
    if (affects != campaign::Affects::Grid && affects != campaign::Affects::Flow) return;
    const auto results =
        std::count_if(document_.reports().begin(), document_.reports().end(), [this](const campaign::PointReport& r) {
            return r.point.configuration == document_.configuration() && r.point.setUp == document_.setUp() &&
                   campaign::isDone(r.state);
        });
    const bool gridToo = affects == campaign::Affects::Grid && document_.gridCurrent();
    if (results == 0 && !gridToo) return;
    const QString some = results == 1 ? tr("1 result") : tr("%1 results").arg(results);
    const QString what = results == 0 ? tr("the grid") : gridToo ? tr("the grid and %1").arg(some) : some;
    say(tr("Another value here puts %1 out of date. Nothing is lost: with this value it comes back.").arg(what));
}

// What the stage lacks, with a button that gets it; not while the first steps say it in their order.
void Window::showNeed() {
    const auto need = stages_[static_cast<std::size_t>(current_)]->need();
    const bool offers = document_.isOpen() && !firstSteps_->leading() && !queue_.busy() && need != Stage::Need::Nothing;
    if (need == Stage::Need::Model)
        need_->tell({}, tr("This campaign has sections only. A model comes with a campaign of its own."),
                    {{tr("Bring a surface file\u2026"), [this] { newCampaign(); }, "needModel"}});
    if (need == Stage::Need::Grid) {
        std::vector<Card::Button> offers{{tr("Make the grid (F7)"), [this] { document_.makeGrid(); }, "needGrid"}};
        if (const auto kept = document_.heightsThatKeepTheGrid())
            offers.push_back({tr("Keep the grid there was"),
                              [this, kept] {
                                  auto s = document_.settings();
                                  s.schedule.heightsWind = kept;
                                  document_.change(tr("keep the grid"), s);
                              },
                              "needKeep"});
        need_->tell({},
                    offers.size() == 1
                        ? tr("There is no grid of these settings yet.")
                        : tr("The grid was for another wind: only the first heights on the wall would be others."),
                    offers);
    }
    if (need == Stage::Need::Result)
        need_->tell({}, tr("The selected point has not been run, so there is nothing of it to show."),
                    {{tr("Run this point"),
                      [this] {
                          if (const auto& p = document_.selected()) queue_.add({*p});
                      },
                      "needPoint"},
                     {tr("Run what is not done (F5)"), [this] { queue_.addAllOpen(); }, "needAll"}});
    need_->setVisible(offers);
}

QString Window::saveFirstPicture() {
    const QString folder = QString::fromStdString((document_.base().folder() / "pictures").string());
    const QString file = folder + "/first-steps.png";
    if (!QDir().mkpath(folder) || !middle_->canvas().savePicture(file)) {
        message_->warn(tr("%1 cannot be written. Look whether the disk is full.").arg(file));
        return {};
    }
    say(tr("The picture is %1.").arg(file));
    return file;
}

bool Window::goTo(const QString& title) {
    for (std::size_t i = 0; i < stages_.size(); ++i)
        if (stages_[i]->title() == title) {
            goTo(static_cast<int>(i));
            return true;
        }
    return false;
}

void Window::openCampaign() {
    const QString folder =
        QFileDialog::getExistingDirectory(this, tr("Open a campaign folder"), UserSettings::folder());
    if (folder.isEmpty()) return;
    UserSettings::noteFolder(folder);
    bring(folder);
}

bool Window::newWithoutModel(const QString& proposal, const char* stage) {
    const QString folder =
        QFileDialog::getSaveFileName(this, tr("Campaign folder"), UserSettings::folder() + "/" + proposal);
    if (folder.isEmpty()) return false;
    UserSettings::noteFolder(folder);
    document_.create(folder, {}, {});
    const bool made =
        document_.isOpen() && QDir(QString::fromStdString(document_.base().folder().string())) == QDir(folder);
    if (made) goTo(stage);
    return made;
}

namespace {
template <class Kind>
Kind* stageOf(const std::vector<Stage*>& stages) {
    Kind* found = nullptr;
    for (Stage* s : stages)
        if (auto* one = qobject_cast<Kind*>(s)) found = one;
    return found;
}
}  // namespace

void Window::newForWing() {
    if (!newWithoutModel("wing.cvane", "Wing")) return;
    stageOf<WingStage>(stages_)->build();
}

void Window::newForOutline() {
    if (!newWithoutModel("vehicle.cvane", "Outline")) return;
    stageOf<OutlineStage>(stages_)->build();
}

void Window::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void Window::dropEvent(QDropEvent* e) {
    for (const QUrl& url : e->mimeData()->urls())
        if (url.isLocalFile()) bring(url.toLocalFile());
}

void Window::bring(const QString& path) {
    const QFileInfo info(path);
    if (info.isDir() || !info.exists()) {
        document_.open(path);
        return;
    }
    if (info.fileName() == "campaign.json") {
        document_.open(info.absolutePath());
        return;
    }
    if (QStringList{"stl", "obj", "ply"}.contains(info.suffix().toLower()) || solid::isSolidFile(path.toStdString())) {
        newCampaignFrom(path);
        return;
    }
    if (document_.isOpen() && stages_[static_cast<std::size_t>(current_)]->takeTable(path)) return;
    if (!document_.isOpen()) {
        emit document_.problem(tr("%1 looks like points of a section. Open a campaign for it first, or make one for "
                                  "sections.")
                                   .arg(info.fileName()));
        return;
    }
    goTo("Sections");
    stageOf<SectionsStage>(stages_)->bring(path);
}

void Window::newCampaign() {
    const QString model =
        QFileDialog::getOpenFileName(this, tr("Surface or solids"), UserSettings::folder(),
                                     tr("Models (*.stl *.STL *.obj *.ply *.step *.stp *.STEP *.STP *.iges *.igs);;All "
                                        "files (*)"));
    if (model.isEmpty()) return;
    UserSettings::noteFolder(model);
    newCampaignFrom(model);
}

void Window::newCampaignFrom(const QString& model) {
    NewModelDialog ask(model, this);
    if (ask.exec() != QDialog::Accepted || ask.folder().isEmpty()) return;
    document_.create(ask.folder(), model, ask.unit(), ask.facetTolerance());
    if (const auto both = ask.airAndModel(); both && document_.isOpen()) {
        auto s = document_.settings();
        grid::takeExtents(s.tunnel, both->first, both->second);
        document_.change(tr("make the tunnel as large as the box"), s);
    }
    if (UserSettings::firstStepsWanted() && document_.isOpen()) firstSteps_->begin();
}

void Window::showHelp() {
    if (!help_) help_ = new HelpWindow(this);
    help_->openAt(document_.isOpen() ? stages_[static_cast<std::size_t>(current_)]->title()
                                     : tr("The work in its order"));
}

void Window::restorePlace() {
    if (const auto geometry = UserSettings::windowGeometry(); !geometry.isEmpty()) restoreGeometry(geometry);
}

// By which the start page shows the campaign again: what the 3D view has last.
void Window::keepPreview() {
    if (!document_.isOpen() || !document_.modelReady() || !middle_->canvas().isVisible()) return;
    constexpr int kWidth = 288, kHeight = 180;
    const QImage picture = middle_->canvas().picture();
    if (picture.isNull()) return;
    picture.scaled(kWidth, kHeight, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation)
        .save(previewFile(QString::fromStdString(document_.base().folder().string())));
}

// The desk is laid out and its graphics are set up as the window appears, not when the first campaign is opened; unseen
// until the start page takes its place.
void Window::showEvent(QShowEvent* e) {
    QMainWindow::showEvent(e);
    if (e->spontaneous() || laidOut_) return;
    laidOut_ = true;
    QTimer::singleShot(0, this, [this] {
        if (!document_.isOpen()) central_->setCurrentIndex(0);
    });
}

void Window::closeEvent(QCloseEvent* e) {
    if (const auto& running = queue_.current(); running && isVisible()) {
        QMessageBox ask(
            QMessageBox::Information, tr("A point is running"),
            tr("%1 goes on when this window is closed, and is found again when its campaign is opened. What "
               "waits behind it does not start.")
                .arg(pointWords(*running)),
            QMessageBox::NoButton, this);
        ask.setObjectName("closingWhileRunning");
        ask.addButton(tr("Close, let it run"), QMessageBox::AcceptRole);
        auto* stop = ask.addButton(tr("Stop it and close"), QMessageBox::DestructiveRole);
        auto* stay = ask.addButton(tr("Stay"), QMessageBox::RejectRole);
        ask.exec();
        if (ask.clickedButton() == stay) {
            e->ignore();
            return;
        }
        if (ask.clickedButton() == stop) queue_.stop();
    }
    keepPreview();
    UserSettings::noteWindowGeometry(saveGeometry());
    QMainWindow::closeEvent(e);
}

}  // namespace cvane::desk
