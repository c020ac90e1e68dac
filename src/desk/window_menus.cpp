// The window's menus and what they do at once.
#include <QAction>
#include <QActionGroup>
#include <QApplication>
#include <QClipboard>
#include <QMenuBar>

#include "desk/help/help_window.h"
#include "desk/message_line.h"
#include "desk/point_board.h"
#include "desk/start/first_steps.h"
#include "desk/start/user_settings.h"
#include "desk/variant_picker.h"
#include "desk/window.h"

namespace cvane::desk {

void Window::makeMenus() {
    auto* file = menuBar()->addMenu(tr("&Campaign"));
    file->addAction(tr("&New from a file\u2026"), QKeySequence::New, this, &Window::newCampaign);
    file->addAction(tr("New for &sections\u2026"), this, &Window::newForSections);
    file->addAction(tr("New with a &wing\u2026"), this, &Window::newForWing);
    file->addAction(tr("New with a ve&hicle from its side view\u2026"), this, &Window::newForOutline);
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
        view->addAction(name, QKeySequence(Qt::CTRL | static_cast<Qt::Key>(key++)), this, [this, l = look] {
            middle_->canvas().lookFrom(
                l, document_.modelReady() ? std::optional(document_.measures().bounds) : std::nullopt);
        });
    view->addAction(tr("Fi&t model and wake"), QKeySequence(Qt::CTRL | Qt::Key_0), this, [this] {
        // The tunnel's sides are farther off than anything else that is drawn; they fill the view where they are set.
        const bool isTunnel = stages_[static_cast<std::size_t>(current_)]->title() == "Tunnel";
        std::optional<Box> at;
        if (document_.modelReady() && !isTunnel) {
            constexpr double kWake = 0.6;  // of the model's length
            at = document_.measures().bounds;
            at->add(Vec3(at->high + Vec3(kWake * at->size().x(), 0.0, 0.0)));
        }
        middle_->canvas().fit(at);
    });
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
    auto* theme = view->addMenu(tr("&Theme"));
    auto* themes = new QActionGroup(this);
    for (const auto& [name, value] : {std::pair{tr("As the &desktop"), Theme::System},
                                      {tr("&Paper"), Theme::Light},
                                      {tr("&Evening"), Theme::Dark}}) {
        auto* action = theme->addAction(name, this, [this, v = value] { setTheme(v); });
        action->setCheckable(true);
        action->setChecked(UserSettings::theme() == value);
        themes->addAction(action);
    }
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
    help->addAction(tr("&First steps, on the open campaign"), this, [this] {
        if (document_.isOpen() && document_.base().hasModel())
            firstSteps_->begin();
        else
            say(tr("First steps need a model: bring a surface file, or open a demo."));
    });
    help->addAction(tr("&Keys"), this, [this] {
        showHelp();
        help_->openAt("Keys");
    });
    help->addAction(tr("All &messages"), message_, &MessageLine::showHistory);
}

void Window::setTheme(Theme theme) {
    UserSettings::noteTheme(theme);
    applyTheme(*qApp, theme);
    middle_->canvas().dress();
    showSurroundings();
    emit document_.changed(Change::Settings | Change::Selection | Change::Points | Change::Values);
    stages_[static_cast<std::size_t>(current_)]->show();
}

}  // namespace cvane::desk
