#include "desk/stages/wing/loading_view.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "base/units.h"
#include "command/film_file.h"
#include "desk/look.h"
#include "desk/save_file.h"
#include "desk/scene.h"
#include "view/actors.h"

namespace cvane::desk {
using base::degree;

namespace {
constexpr int kPicture_ms = 350;  // of what is played through
constexpr double kPicturesASecond = 4.0;

view::Colour of(const QColor& c) {
    return {c.redF(), c.greenF(), c.blueF()};
}
}  // namespace

LoadingView::LoadingView(Document& document, Middle& middle, SceneItems& scene)
    : document_(document), middle_(middle), scene_(scene) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    look_ = new QComboBox;
    look_->setObjectName("wingLook");
    look_->setAccessibleName(tr("What the middle shows"));
    look_->addItems({tr("plan, polar and span loading"), tr("the loading in 3D")});
    look_->setToolTip(
        tr("In 3D the aircraft stands in its wind at the angle of the slider: colours are the pressure difference "
           "between "
           "its sides, strokes the load per span, lines behind it its wakes"));
    look_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    look_->setMinimumContentsLength(10);
    column->addWidget(look_);
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(tr("at alpha")));
    slider_ = new QSlider(Qt::Horizontal);
    slider_->setObjectName("wingAngle");
    slider_->setAccessibleName(tr("Angle of attack that is looked at"));
    slider_->setToolTip(
        tr("The angle whose loading is shown, and which is marked on the polar; a click on the polar "
           "chooses it too"));
    slider_->setRange(0, 0);
    row->addWidget(slider_, 1);
    words_ = new QLabel;
    words_->setObjectName("wingAngleWords");
    words_->setMinimumWidth(9 * fontMetrics().averageCharWidth());
    row->addWidget(words_);
    column->addLayout(row);
    auto* buttons = new QHBoxLayout;
    play_ = new QPushButton(tr("Play"));
    play_->setObjectName("wingPlay");
    play_->setToolTip(tr("Through all angles, one after the other"));
    play_->setCheckable(true);
    save_ = new QPushButton(tr("Film\u2026"));
    save_->setObjectName("wingFilm");
    save_->setToolTip(tr("A picture of the 3D view for each angle, joined to a film where ffmpeg is installed"));
    for (auto* b : {play_, save_}) {
        b->setMinimumWidth(20);
        buttons->addWidget(b);
    }
    column->addLayout(buttons);
    auto* lift = new QHBoxLayout;
    wanted_ = new QDoubleSpinBox;
    wanted_->setObjectName("wantedLift");
    wanted_->setAccessibleName(tr("Lift coefficient that is wanted"));
    wanted_->setToolTip(tr("A lift coefficient whose angle of attack is wanted"));
    wanted_->setRange(-5.0, 5.0);
    wanted_->setDecimals(3);
    wanted_->setSingleStep(0.05);
    wanted_->setValue(0.5);
    wantedWords_ = new QLabel;
    wantedWords_->setObjectName("wantedAngle");
    schedule_ = new QPushButton(tr("To the schedule"));
    schedule_->setObjectName("wantedToSchedule");
    schedule_->setToolTip(tr("This angle among those of the schedule, for the field to be run at"));
    for (QWidget* w : std::initializer_list<QWidget*>{wanted_, schedule_}) w->setMinimumWidth(20);
    lift->addWidget(new QLabel(tr("CL")));
    lift->addWidget(wanted_);
    lift->addWidget(wantedWords_, 1);
    lift->addWidget(schedule_);
    column->addLayout(lift);
    connect(wanted_, &QDoubleSpinBox::valueChanged, this, &LoadingView::sayWanted);
    connect(schedule_, &QPushButton::clicked, this, [this] {
        if (const auto alpha = wantedAngle()) emit scheduled(*alpha / degree);
    });
    timer_.setInterval(kPicture_ms);
    connect(&timer_, &QTimer::timeout, this, &LoadingView::play);
    connect(play_, &QPushButton::toggled, this, [this](bool on) {
        play_->setText(on ? tr("Stop") : tr("Play"));
        on ? timer_.start() : timer_.stop();
    });
    connect(save_, &QPushButton::clicked, this, &LoadingView::askAndSave);
    connect(slider_, &QSlider::valueChanged, this, &LoadingView::moved);
    connect(look_, &QComboBox::currentIndexChanged, this, &LoadingView::lookChanged);
    take(nullptr);
}

LoadingView::~LoadingView() {
    job_.forget();
    pool_.waitForDone();
}

void LoadingView::take(std::shared_ptr<const WingWork::Shown> shown) {
    if (shown && shown != shown_) scale_ = view::loadingScaleOf(shown->outcome);
    shown_ = std::move(shown);
    const int last = shown_ ? static_cast<int>(shown_->outcome.rows.size()) - 1 : 0;
    if (slider_->maximum() != last) {
        const QSignalBlocker quiet(slider_);
        slider_->setRange(0, last);
        slider_->setValue(last / 2);
    }
    for (QWidget* w : std::initializer_list<QWidget*>{slider_, play_, save_}) w->setEnabled(shown_ && last > 0);
    sayWanted();
    words_->setText(shown_ ? tr("%1 deg").arg(shown_->outcome.rows[angle()].wind.alpha / degree, 0, 'f', 2)
                           : QString());
}

std::optional<double> LoadingView::wantedAngle() const {
    return shown_ ? lifting::angleOfLift(shown_->outcome.rows, wanted_->value()) : std::nullopt;
}

void LoadingView::sayWanted() {
    const auto alpha = wantedAngle();
    wantedWords_->setText(alpha ? tr("at %1 deg").arg(*alpha / degree, 0, 'f', 2) : tr("not in the row"));
    schedule_->setEnabled(alpha.has_value());
}

void LoadingView::play() {
    if (!shown_ || !isVisible()) {
        play_->setChecked(false);
        return;
    }
    slider_->setValue(slider_->value() == slider_->maximum() ? 0 : slider_->value() + 1);
}

// Bodies are those of the model, turned with the rest.
void LoadingView::drawBodies(const Mat3& turn, const Vec3& centre) {
    if (!document_.modelReady() || shown_->aircraft.bodies.empty()) return;
    auto turned = document_.placed();
    for (Vec3& p : turned.points) p = centre + turn * (p - centre);
    for (std::size_t part = 0; part < turned.parts.size(); ++part)
        for (const auto& b : shown_->aircraft.bodies)
            if (turned.parts[part].name == b.name)
                scene_.add("body " + b.name, scene::surfaceActor(turned, static_cast<int>(part), look::body, 1.0));
}

void LoadingView::drawLoading() {
    const auto p = view::loadingPicture(shown_->aircraft, shown_->asked, shown_->outcome, angle(), scale_);
    const auto& paper = view::paperOf(look::isDark());
    const auto put = [&](const char* name, const view::ItemShape& shape, const QColor& colour) {
        if (shape.pieces() > 0) scene_.add(name, view::propOf(shape, paper.plain, of(colour), middle_.canvas().unit()));
    };
    put("panels", p.panels, look::ink);
    put("loading", p.loading, look::accent);
    put("edge", p.edge, look::accent);
    put("stalled", p.stalled, look::warn);
    put("wakes", p.wakes, look::faint);
    scene_.add("legend", view::legendOf(p.panels, paper.ink, middle_.canvas().unit()));
    drawBodies(p.turn, p.centre);
}

void LoadingView::draw() {
    scene_.begin();
    if (shown_ && !shown_->outcome.rows.empty()) drawLoading();
    scene_.finish();
    middle_.canvas().refresh();
}

void LoadingView::askAndSave() {
    const QString file = askWhereToSaveFilm(this, tr("Film"), "loading");
    if (!file.isEmpty()) save(file);
}

void LoadingView::save(const QString& film) {
    if (!shown_ || job_.running()) return;
    play_->setChecked(false);
    look_->setCurrentIndex(1);
    const std::filesystem::path out = film.toStdString();
    const auto before = angle();
    for (int k = 0; k <= slider_->maximum(); ++k) {
        choose(static_cast<std::size_t>(k));
        draw();
        const auto file = command::numberedPicture(out, k + 1);
        if (middle_.canvas().savePicture(QString::fromStdString(file.string()))) continue;
        emit document_.problem(tr("The picture %1 cannot be written.").arg(QString::fromStdString(file.string())));
        return;
    }
    choose(before);
    const QString made = tr("%1 pictures from %2 on.")
                             .arg(slider_->maximum() + 1)
                             .arg(QString::fromStdString(command::numberedPicture(out, 1).string()));
    if (film.endsWith(".png")) {
        emit document_.said(made);
        return;
    }
    job_.start([out](const auto&) { return QString::fromStdString(command::joinPictures(out, kPicturesASecond)); },
               [this, film, made](const QString& trouble) {
                   if (trouble.isEmpty())
                       emit document_.said(tr("The film is %1.").arg(film));
                   else
                       emit document_.problem(made + " " + trouble + ".");
               });
}

}  // namespace cvane::desk
