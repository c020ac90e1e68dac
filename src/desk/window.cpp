#include "desk/window.h"

#include <QAction>
#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QMenuBar>
#include <QScrollArea>
#include <QSplitter>
#include <QStatusBar>
#include <QTimer>

#include "base/units.h"
#include "desk/point_board.h"
#include "desk/stages/balance_stage.h"
#include "desk/stages/flow_stage.h"
#include "desk/stages/grid_stage.h"
#include "desk/stages/model_stage.h"
#include "desk/stages/pressures_stage.h"
#include "desk/stages/report_stage.h"
#include "desk/stages/run_stage.h"
#include "desk/stages/schedule_stage.h"
#include "desk/stages/tunnel_stage.h"
#include "desk/wheel_guard.h"
#include "desk/wind_line.h"

namespace cvane::desk {

Window::Window() {
    setWindowTitle("Crisp Vane");
    resize(1280, 800);
    middle_ = new Middle;
    stages_ = {new ModelStage(document_, *middle_), new TunnelStage(document_, *middle_), new GridStage(document_, *middle_), new ScheduleStage(document_, *middle_), new RunStage(document_, *middle_, queue_),
               new BalanceStage(document_, *middle_), new PressuresStage(document_, *middle_), new FlowStage(document_, *middle_), new ReportStage(document_, *middle_)};
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
    board_ = new PointBoard(document_, queue_);

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
    rowLayout->addWidget(rail_);
    rowLayout->addWidget(down, 1);
    auto* all = new QWidget;
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new WindLine(document_));
    column->addWidget(row, 1);
    setCentralWidget(all);
    message_ = new QLabel(tr("Open a campaign (Ctrl+O), or make one from a surface file (Ctrl+N)."));
    message_->setObjectName("message");
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    statusBar()->addWidget(message_, 1);

    auto* file = menuBar()->addMenu(tr("&Campaign"));
    file->addAction(tr("&New from a surface file\u2026"), QKeySequence::New, this, &Window::newCampaign);
    file->addAction(tr("&Open\u2026"), QKeySequence::Open, this, &Window::openCampaign);
    file->addSeparator();
    file->addAction(tr("&Leave"), QKeySequence::Quit, this, &QWidget::close);
    auto* edit = menuBar()->addMenu(tr("&Edit"));
    auto* undo = document_.undoStack().createUndoAction(this, tr("Undo:"));
    undo->setShortcut(QKeySequence::Undo);
    auto* redo = document_.undoStack().createRedoAction(this, tr("Redo:"));
    redo->setShortcut(QKeySequence::Redo);
    edit->addActions({undo, redo});
    auto* view = menuBar()->addMenu(tr("&View"));
    const char* names[] = {"From the &front", "From the &side", "From &above", "&Oblique"};
    for (int i = 0; i < 4; ++i) view->addAction(tr(names[i]), QKeySequence(Qt::ALT | static_cast<Qt::Key>(Qt::Key_1 + i)), this, [this, i] { middle_->canvas().lookFrom(i); });
    auto* board = view->addAction(tr("Point &board"), QKeySequence(Qt::Key_F6), this, [this](bool on) { board_->setVisible(on); });
    board->setCheckable(true);
    board->setChecked(true);
    auto* work = menuBar()->addMenu(tr("&Work"));
    work->addAction(tr("Make the &grid"), QKeySequence(Qt::Key_F7), &document_, &Document::makeGrid);
    work->addAction(tr("&Run all that are not done"), QKeySequence(Qt::Key_F5), &queue_, &RunQueue::addAllOpen);
    work->addAction(tr("&Stop and keep"), QKeySequence(Qt::SHIFT | Qt::Key_F5), &queue_, &RunQueue::stop);

    connect(rail_, &StageRail::chosen, this, &Window::goTo);
    connect(&document_, &Document::problem, this, [this](const QString& s) {
        message_->setText("\u26a0 " + s);
        message_->setStyleSheet("color: #a33c0d; font-weight: 600;");
    });
    connect(&document_, &Document::opened, this, [this] {
        setWindowTitle(QString::fromStdString(document_.settings().name) + " \u2014 Crisp Vane");
        message_->setText(tr("Campaign %1").arg(QString::fromStdString(document_.campaign().folder().filename().string())));
        message_->setToolTip(QString::fromStdString(document_.campaign().folder().string()));
        message_->setStyleSheet({});
        framed_ = false;
    });
    connect(&document_, &Document::modelChanged, this, [this] {
        stages_[static_cast<std::size_t>(current_)]->show();
        if (!framed_) {
            if (current_ != 0) stages_[0]->show();
            middle_->canvas().lookFrom(3);
            if (current_ != 0) goTo(current_);
            framed_ = true;
        }
    });
    for (auto signal : {&Document::settingsChanged, &Document::modelChanged, &Document::gridChanged, &Document::reportsChanged, &Document::selectionChanged, &Document::healthKnown})
        connect(&document_, signal, this, &Window::refresh);
    connect(&document_, &Document::settingsChanged, this, [this] {
        if (current_ == 1 && document_.modelReady()) stages_[1]->show();
    });
    goTo(0);
}

void Window::refresh() { rail_->refresh(); }

void Window::goTo(int stage) {
    stages_[static_cast<std::size_t>(current_)]->setCurrent(false);
    current_ = stage;
    stages_[static_cast<std::size_t>(stage)]->setCurrent(true);
    sheets_->setCurrentIndex(stage);
    rail_->setCurrent(stage);
    stages_[static_cast<std::size_t>(stage)]->show();
    rail_->refresh();
}

void Window::openCampaign() {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Open a campaign folder"));
    if (!folder.isEmpty()) document_.open(folder);
}

void Window::newCampaign() {
    const QString model = QFileDialog::getOpenFileName(this, tr("Surface file"), {}, tr("Surfaces (*.stl *.STL *.obj *.ply);;All files (*)"));
    if (model.isEmpty()) return;
    QDialog ask(this);
    ask.setWindowTitle(tr("New campaign"));
    auto* form = new QFormLayout(&ask);
    auto* unit = new QComboBox;
    for (const auto& u : base::lengthUnits()) unit->addItem(QString::fromUtf8(u.symbol.data()));
    form->addRow(tr("The file's lengths are in"), unit);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, &ask, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &ask, &QDialog::reject);
    if (ask.exec() != QDialog::Accepted) return;
    const QFileInfo info(model);
    const QString folder = QFileDialog::getSaveFileName(this, tr("Campaign folder"), info.path() + "/" + info.completeBaseName() + ".cvane");
    if (!folder.isEmpty()) document_.create(folder, model, unit->currentText());
}

}  // namespace cvane::desk
