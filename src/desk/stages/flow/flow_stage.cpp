#include "desk/stages/flow/flow_stage.h"

#include <vtkTextActor.h>
#include <vtkTextProperty.h>

#include <QTimer>

#include "desk/look.h"
#include "desk/model/point_model.h"
#include "desk/note_room.h"
#include "desk/scene.h"
#include "field/locator.h"
#include "view/actors.h"

namespace cvane::desk {
namespace {
constexpr std::size_t kLarge = 5000;  ///< pieces of an item that takes time to be handed over
using Kind = campaign::FlowItem::Kind;

vtkSmartPointer<vtkTextActor> captionOf(const QString& text) {
    auto words = vtkSmartPointer<vtkTextActor>::New();
    words->SetInput(text.toStdString().c_str());
    words->GetTextProperty()->SetFontSize(15);
    words->GetTextProperty()->SetColor(look::ink.redF(), look::ink.greenF(), look::ink.blueF());
    words->SetPosition(14, 10);
    return words;
}

}  // namespace

FlowStage::FlowStage(Document& d, Middle& m) : Stage(d, m), loader_(d) {
    makeSheet();
    words_ = note();
    words_->setObjectName("flowWords");
    words_->setMinimumHeight(3 * words_->fontMetrics().lineSpacing());
    words_->setAlignment(Qt::AlignTop);
    connect(words_, &QLabel::linkActivated, this, &FlowStage::addLinesPastTouched);
    column_->addWidget(roomFor(words_, 3));
    makeList();
    form_ = new ItemForm;
    column_->addWidget(form_);
    views_ = new ViewPanel(d, m.canvas(), [this] { return items_; });
    column_->addWidget(views_);
    column_->addStretch(1);
    const auto again = [this] {
        if (current_) show();
    };
    document_.when(Change::Selection, this, again);
    document_.when(Change::Settings, this, [this] {
        if (current_ && document_.settings().flowItems != items_) show();
    });
    connect(&loader_, &FlowLoader::changed, this, again);
    connect(form_, &ItemForm::edited, this, &FlowStage::replaceChosen);
    connect(form_, &ItemForm::refused, &document_, &Document::problem);
    connect(views_, &ViewPanel::panesChanged, this, again);
    connect(&m.canvas(), &Canvas::handleMoved, this, [this](const QString& name, const Vec3& to) {
        if (current_ && chosen())
            replaceChosen(tr("drag an item in the view"), ItemForm::moved(*chosen(), name.toStdString(), to));
    });
    connect(&m.canvas(), &Canvas::clicked, this, [this](const Vec3& place) {
        if (current_) tell(place);
    });
}

QString FlowStage::keyFigure() const {
    if (!loader_.flow()) return {};
    const auto drawn = std::count_if(items_.begin(), items_.end(), [](const Item& i) { return i.shown; });
    return tr("%1 of %2 items").arg(drawn).arg(items_.size());
}

Stage::State FlowStage::state() const {
    return stateOfResult();
}

void FlowStage::drawItems(FlowLoader& loader, SceneItems& scene, QStringList& troubles, bool& waiting,
                          std::shared_ptr<const view::ItemShape>* scale) {
    const Item* const front = chosen();
    const auto& paper = view::paperOf(look::isDark());
    for (std::size_t k = 0; k < items_.size(); ++k) {
        const auto& item = items_[k];
        if (!item.shown) continue;
        const auto name = "item " + std::to_string(k);
        const auto shape = loader.shapeOf(item);
        if (!shape) {
            // What is there stays until its follower has been worked out, so that nothing flickers.
            scene.hold(name);
            waiting = true;
            continue;
        }
        if (!shape->trouble.empty()) troubles << QString::fromStdString(item.name + ": " + shape->trouble);
        if (shape->pieces() == 0) continue;
        const std::string from = loader.keyOf(item) + (look::isDark() ? " dark" : "");
        // One large item a picture: what a card or a processor takes in with it is half of what holds the window up.
        if (!scene.has(name, from) && shape->pieces() > kLarge) {
            if (tookLarge_) {
                scene.hold(name);
                if (!comesAgain_)
                    QTimer::singleShot(30, this, [this] {
                        comesAgain_ = false;
                        if (current_) show();
                    });
                comesAgain_ = true;
                continue;
            }
            tookLarge_ = true;
        }
        scene.keep(name, from, [&] { return view::propOf(*shape, paper.plain, paper.ink, middle_.canvas().unit()); });
        if (scale && !shape->values.empty() && (!*scale || &item == front)) *scale = shape;
    }
}

void FlowStage::arrangePanes() {
    const auto mode = views_->panes();
    const int wanted = mode == ViewPanel::Panes::One ? 0 : mode == ViewPanel::Panes::Four ? 3 : 1;
    const bool apart = mode != ViewPanel::Panes::Difference;
    auto& canvas = middle_.canvas();
    if (!apart || static_cast<int>(beside_.size()) != wanted || canvas.panes() != 1 + (apart ? wanted : 0)) {
        for (auto& b : beside_) b.scene.reset();
        canvas.setPanes(1 + (apart ? wanted : 0));
    }
    while (static_cast<int>(beside_.size()) > wanted) beside_.pop_back();
    for (int i = static_cast<int>(beside_.size()); i < wanted; ++i) {
        const auto number = static_cast<std::size_t>(i) + 1;
        auto which = [this, number]() -> const campaign::PointReport* {
            const auto points = document_.picked();
            return number < points.size() ? document_.reportOf(points[number]) : nullptr;
        };
        beside_.push_back({i + 1, std::make_unique<FlowLoader>(document_, which), nullptr});
        connect(beside_.back().loader.get(), &FlowLoader::changed, this, [this] {
            if (current_) show();
        });
    }
    if (apart)
        for (auto& b : beside_)
            if (!b.scene) b.scene = std::make_unique<SceneItems>(canvas.pane(b.number));
}

void FlowStage::drawBeside(QStringList& troubles, bool& waiting) {
    const auto points = document_.picked();
    for (auto& b : beside_) {
        b.loader->wanted();
        if (!b.scene) continue;  // only there for a difference
        b.scene->begin();
        const auto number = static_cast<std::size_t>(b.number);
        QString caption = number < points.size() ? pointWords(points[number]) : QString();
        if (b.loader->flow()) {
            b.loader->makeShapes();
            drawItems(*b.loader, *b.scene, troubles, waiting, nullptr);
        } else {
            caption = number < points.size() ? caption + ": " + b.loader->excuse()
                                             : tr("Ctrl+click more tiles of the point board.");
        }
        b.scene->add("caption", captionOf(caption));
        b.scene->finish();
    }
}

void FlowStage::draw() {
    QStringList troubles;
    std::shared_ptr<const view::ItemShape> scale;
    bool waiting = false;
    tookLarge_ = false;
    const bool isDifference = views_->panes() == ViewPanel::Panes::Difference;
    drawBeside(troubles, waiting);
    const auto points = document_.picked();
    if (isDifference) {
        const auto& other = *beside_.front().loader;
        if (!other.flow())
            troubles << (points.size() < 2 ? tr("Ctrl+click a second tile of the point board, which is taken away.")
                                           : other.excuse());
        loader_.compareWith(other.shared(), points.size() > 1 ? points[1].name() : std::string());
    } else {
        loader_.compareWith(nullptr, {});
    }
    loader_.makeShapes();
    drawItems(loader_, scene_, troubles, waiting, &scale);
    if (scale) {
        scene_.add("scale", view::legendOf(*scale, view::paperOf(look::isDark()).ink, middle_.canvas().unit()));
    } else if (waiting) {
        scene_.hold("scale");
    }
    if (!beside_.empty() && !points.empty())
        scene_.add("caption", captionOf(isDifference && points.size() > 1
                                            ? tr("%1 less %2").arg(pointWords(points[0]), pointWords(points[1]))
                                            : pointWords(points[0])));
    QString text = waiting ? tr("Working it out\u2026") : troubles.join("\n");
    if (text.isEmpty() && scale) text = tr("The colours show: %1.").arg(QString::fromStdString(scale->title));
    words_->setText(provisionalNote() + text);
}

void FlowStage::showHandles() {
    middle_.canvas().setHandles(current_ && chosen() && chosen()->shown && loader_.flow()
                                    ? ItemForm::handlesOf(*chosen())
                                    : std::vector<Handle>());
}

void FlowStage::tell(const Vec3& x) {
    if (!loader_.flow()) return;
    const auto& flow = *loader_.flow();
    QStringList words{tr("At %1 %2 %3 m").arg(x.x(), 0, 'g', 4).arg(x.y(), 0, 'g', 4).arg(x.z(), 0, 'g', 4)};
    // On a wall: which part, and what it carries.
    const auto& wall = flow.wall();
    const auto& geometry = flow.mesh().geometry();
    std::size_t nearest = 0;
    double least = 1e300;
    for (std::size_t i = 0; i < wall.face.size(); ++i) {
        const double d = (geometry.faceCentre[static_cast<std::size_t>(wall.face[i])] - x).squaredNorm();
        if (d < least) least = d, nearest = i;
    }
    const double size =
        wall.face.empty() ? 0.0 : std::sqrt(geometry.faceArea[static_cast<std::size_t>(wall.face[nearest])].norm());
    const bool onWall = least < 4.0 * size * size;
    touched_ = onWall ? std::optional(wall.face[nearest]) : std::nullopt;
    if (onWall) {
        for (const auto& p : flow.mesh().grid().patches)
            if (wall.face[nearest] >= p.first && wall.face[nearest] < p.first + p.count)
                words << tr("on %1").arg(QString::fromStdString(p.name));
        words << QString("Cp %1").arg(wall.Cp[nearest], 0, 'f', 3)
              << QString("Cf %1").arg(wall.Cf[nearest].norm(), 0, 'g', 3)
              << QString("y+ %1").arg(wall.yPlus[nearest], 0, 'g', 3);
        if (const auto* r = document_.selectedReport(); r && r->result)
            for (const auto& p : r->result->parts)
                if (words.value(1) == tr("on %1").arg(QString::fromStdString(p.name)))
                    words << tr("this part: CL %1, CD %2")
                                 .arg(p.coefficients.CL, 0, 'f', 4)
                                 .arg(p.coefficients.CD, 0, 'f', 4);
    } else if (const auto spot = field::Locator(flow.mesh()).find(x)) {
        words << tr("speed %1 m/s").arg(field::valueAt(flow.mesh(), *spot, flow.atPoints("speed")), 0, 'g', 4)
              << QString("Cp %1").arg(field::valueAt(flow.mesh(), *spot, flow.atPoints("Cp")), 0, 'f', 3)
              << tr("loss %1").arg(field::valueAt(flow.mesh(), *spot, flow.atPoints("loss")), 0, 'f', 3);
    }
    QString text = words.join(", ").toHtmlEscaped() + ".";
    if (onWall) text += QString(" <a href=\"lines\">%1</a>").arg(tr("Lines past here"));
    words_->setText(text);
}

void FlowStage::addLinesPastTouched() {
    if (!touched_ || !loader_.flow()) return;
    const auto& g = loader_.flow()->mesh().geometry();
    const auto f = static_cast<std::size_t>(*touched_);
    // A short row of places that stands on the wall: from the first cell to a twentieth of the model's length.
    const Vec3 outwards = -g.faceArea[f].normalized();
    const double length = view::wallsOf(*loader_.flow()).size().maxCoeff();
    auto item = itemOf(Kind::Lines);
    item.from = g.faceCentre[f] + 0.002 * length * outwards;
    item.to = g.faceCentre[f] + 0.05 * length * outwards;
    item.count = 9;
    add(tr("lines past a place"), item);
}

void FlowStage::showScene(bool on) {
    Stage::showScene(on);
    auto& canvas = middle_.canvas();
    if (on) return;
    canvas.setHandles({});
    for (auto& b : beside_) b.scene.reset();
    canvas.setPanes(1);
}

void FlowStage::show() {
    loader_.wanted();
    middle_.showCanvas();
    arrangePanes();
    scene_.begin();
    fill();
    if (!loader_.flow())
        words_->setText(loader_.excuse());
    else
        draw();
    showHandles();
    scene_.finish();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
