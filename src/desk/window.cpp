#include "desk/window.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QDropEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMenuBar>
#include <QMimeData>
#include <QScrollArea>
#include <QSplitter>
#include <QStatusBar>
#include <QTimer>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "desk/clean_dialog.h"
#include "desk/help/help_window.h"
#include "desk/point_board.h"
#include "desk/stages/sections_stage.h"
#include "desk/stages/stages.h"
#include "desk/start/new_model_dialog.h"
#include "desk/start/start_page.h"
#include "desk/start/user_settings.h"
#include "desk/variant_picker.h"
#include "desk/wheel_guard.h"
#include "desk/wind_line.h"

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
        scroll->setWidgetResizable(true);
        scroll->setFrameShape(QFrame::NoFrame);
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
    rail->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    rail->setFixedWidth(rail_->width());
    left->addWidget(rail, 1);
    rowLayout->addLayout(left);
    rowLayout->addWidget(down, 1);
    auto* all = new QWidget;
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new WindLine(document_));
    column->addWidget(row, 1);
    start_ = new StartPage;
    connect(start_, &StartPage::wantsModel, this, &Window::newCampaign);
    connect(start_, &StartPage::wantsSections, this, &Window::newForSections);
    connect(start_, &StartPage::wantsOpen, this, &Window::openCampaign);
    connect(start_, &StartPage::opens, &document_, &Document::open);
    central_ = new QStackedWidget;
    central_->addWidget(start_);
    central_->addWidget(all);
    central_->setCurrentIndex(1);
    setCentralWidget(central_);
    message_ = new QLabel(tr("F1 explains the work in its order."));
    message_->setObjectName("message");
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    statusBar()->addWidget(message_, 1);

    makeMenus();
    hearDocument();
    goTo("Model");
}

void Window::makeMenus() {
    auto* file = menuBar()->addMenu(tr("&Campaign"));
    file->addAction(tr("&New from a surface file\u2026"), QKeySequence::New, this, &Window::newCampaign);
    file->addAction(tr("New for &sections\u2026"), this, &Window::newForSections);
    file->addAction(tr("&Open\u2026"), QKeySequence::Open, this, &Window::openCampaign);
    file->addSeparator();
    file->addAction(tr("New &configuration\u2026"), variants_, &VariantPicker::makeConfiguration);
    file->addAction(tr("New &set-up\u2026"), variants_, &VariantPicker::makeSetUp);
    file->addAction(tr("Take out this configuration"), variants_, &VariantPicker::removeConfiguration);
    file->addAction(tr("Take out this set-up"), variants_, &VariantPicker::removeSetUp);
    file->addSeparator();
    file->addAction(tr("&Space that runs and grids take\u2026"), this, &Window::cleanUp);
    file->addSeparator();
    file->addAction(tr("&Leave"), QKeySequence::Quit, this, &QWidget::close);
    auto* edit = menuBar()->addMenu(tr("&Edit"));
    auto* undo = document_.undoStack().createUndoAction(this, tr("Undo:"));
    undo->setShortcut(QKeySequence::Undo);
    auto* redo = document_.undoStack().createRedoAction(this, tr("Redo:"));
    redo->setShortcut(QKeySequence::Redo);
    edit->addActions({undo, redo});
    auto* view = menuBar()->addMenu(tr("&View"));
    const std::pair<QString, view::Look> looks[] = {{tr("From the &front, along the wind"), view::Look::Front},
                                                    {tr("From &port"), view::Look::Side},
                                                    {tr("From &above"), view::Look::Above},
                                                    {tr("&Obliquely"), view::Look::Oblique},
                                                    {tr("From the &back"), view::Look::Back},
                                                    {tr("From &starboard"), view::Look::Starboard},
                                                    {tr("From be&low"), view::Look::Below}};
    int key = Qt::Key_1;
    for (const auto& [name, look] : looks)
        view->addAction(name, QKeySequence(Qt::ALT | static_cast<Qt::Key>(key++)), this, [this, l = look] {
            middle_->canvas().lookFrom(
                l, document_.modelReady() ? std::optional(document_.measures().bounds) : std::nullopt);
        });
    view->addAction(tr("Fi&t what is drawn"), QKeySequence(Qt::ALT | Qt::Key_0), this,
                    [this] { middle_->canvas().fit(); });
    auto* perspective = view->addAction(tr("&Perspective"), QKeySequence(Qt::ALT | Qt::Key_P), this,
                                        [this](bool on) { middle_->canvas().setPerspective(on); });
    perspective->setCheckable(true);
    view->addAction(tr("&Measure between two places"), QKeySequence(Qt::CTRL | Qt::Key_M), this, [this] {
        middle_->showCanvas();
        middle_->canvas().measure();
        say(tr("Click two places on what is drawn; Esc gives it up."));
    });
    view->addAction(tr("&Copy the picture"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_C), this, [this] {
        QApplication::clipboard()->setImage(middle_->canvas().picture());
        say(tr("The picture is on the clipboard."));
    });
    view->addSeparator();
    auto* board = view->addAction(tr("Point &board"), QKeySequence(Qt::Key_F6), this,
                                  [this](bool on) { board_->setVisible(on); });
    board->setCheckable(true);
    board->setChecked(true);
    auto* work = menuBar()->addMenu(tr("&Work"));
    work->addAction(tr("Make the &grid"), QKeySequence(Qt::Key_F7), &document_, &Document::makeGrid);
    work->addAction(tr("&Run what is not done"), QKeySequence(Qt::Key_F5), &queue_, &RunQueue::addAllOpen);
    work->addAction(tr("&Stop and keep"), QKeySequence(Qt::SHIFT | Qt::Key_F5), &queue_, &RunQueue::stop);
    connect(&queue_, &RunQueue::told, this, &Window::say);
    auto* help = menuBar()->addMenu(tr("&Help"));
    help->addAction(tr("&Guide, at this step"), QKeySequence::HelpContents, this, &Window::showHelp);
}

void Window::say(const QString& text) {
    message_->setText(text);
    message_->setStyleSheet({});
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
            ground = grid::tunnelBox(document_.settings().tunnel, document_.measures().bounds).low.z();
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
    connect(rail_, &StageRail::chosen, this, qOverload<int>(&Window::goTo));
    connect(&document_, &Document::problem, this, [this](const QString& s) {
        message_->setText("\u26a0 " + s);
        message_->setStyleSheet("color: #a33c0d; font-weight: 600;");
    });
    document_.when(Change::Campaign, this, [this] {
        setWindowTitle(QString::fromStdString(document_.settings().name) + " \u2014 Crisp Vane");
        message_->setText(
            tr("Campaign %1").arg(QString::fromStdString(document_.campaign().folder().filename().string())));
        message_->setToolTip(QString::fromStdString(document_.campaign().folder().string()));
        message_->setStyleSheet({});
        framed_ = false;
        central_->setCurrentIndex(1);
        UserSettings::noteCampaign(QString::fromStdString(document_.base().folder().string()));
        board_->setVisible(document_.base().hasModel());
        rail_->setFolded(!document_.base().hasModel());
        if (!document_.base().hasModel()) goTo("Sections");
    });
    document_.when(Change::Model, this, [this] {
        stages_[static_cast<std::size_t>(current_)]->show();
        if (framed_ || !document_.modelReady()) return;
        // The model fills the view once; from then on the camera is the user's.
        middle_->canvas().lookFrom(view::Look::Oblique, document_.measures().bounds);
        framed_ = true;
        // One that has no picture yet gets one once it has been drawn.
        constexpr int kOnceDrawn_ms = 3000;
        if (!QFileInfo::exists(previewFile(QString::fromStdString(document_.base().folder().string()))))
            QTimer::singleShot(kOnceDrawn_ms, this, &Window::keepPreview);
    });
    document_.when(~Changes(), this, [this] { rail_->refresh(); });
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

void Window::newForSections() {
    const QString folder =
        QFileDialog::getSaveFileName(this, tr("Campaign folder"), UserSettings::folder() + "/sections.cvane");
    if (folder.isEmpty()) return;
    UserSettings::noteFolder(folder);
    document_.create(folder, {}, {});
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
    if (QStringList{"stl", "obj", "ply"}.contains(info.suffix().toLower())) {
        newCampaignFrom(path);
        return;
    }
    if (!document_.isOpen()) {
        emit document_.problem(tr("%1 looks like points of a section. Open a campaign for it first, or make one for "
                                  "sections.")
                                   .arg(info.fileName()));
        return;
    }
    goTo("Sections");
    for (Stage* s : stages_)
        if (auto* sections = qobject_cast<SectionsStage*>(s)) sections->bring(path);
}

void Window::newCampaign() {
    const QString model = QFileDialog::getOpenFileName(this, tr("Surface file"), UserSettings::folder(),
                                                       tr("Surfaces (*.stl *.STL *.obj *.ply);;All files (*)"));
    if (model.isEmpty()) return;
    UserSettings::noteFolder(model);
    newCampaignFrom(model);
}

void Window::newCampaignFrom(const QString& model) {
    NewModelDialog ask(model, this);
    if (ask.exec() == QDialog::Accepted && !ask.folder().isEmpty()) document_.create(ask.folder(), model, ask.unit());
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
    keepPreview();
    UserSettings::noteWindowGeometry(saveGeometry());
    QMainWindow::closeEvent(e);
}

}  // namespace cvane::desk
