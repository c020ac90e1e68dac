#include "desk/model/flow_loader.h"

#include <algorithm>

#include "campaign/settings/fields.h"
#include "campaign/store/stored_flow.h"
#include "desk/fields.h"

namespace cvane::desk {
namespace {
// Watching shall take a few per cent of a processor; the window draws what it gets, too.
constexpr double kPauseOverCost = 40.0;
}  // namespace

FlowLoader::FlowLoader(Document& d, std::function<const campaign::PointReport*()> which)
    : document_(d), which_(std::move(which)) {
    if (!which_) which_ = [this] { return document_.selectedReport(); };
    pool_.setMaxThreadCount(2);
    document_.when(Change::Values | Change::Selection | Change::Campaign, this, [this] {
        if (const auto key = keyOfFlow(which_()); key != key_ && key != reading_ && !waits()) emit changed();
    });
    next_.setSingleShot(true);
    connect(&next_, &QTimer::timeout, this, &FlowLoader::changed);
}

FlowLoader::~FlowLoader() {
    opening_.forget();
    shaping_.forget();
    pool_.waitForDone();
}

bool FlowLoader::waits() {
    const auto* point = which_();
    if (!point || point->state != campaign::PointState::Running || !flow_ || point->folder != folder_) return false;
    const double left = kPauseOverCost * cost_ - 1e-3 * static_cast<double>(shownFor_.elapsed());
    if (left > 0.0 && !next_.isActive()) next_.start(1 + static_cast<int>(1e3 * left));
    return left > 0.0;
}

void FlowLoader::wanted() {
    const std::string key = keyOfFlow(which_());
    if (!key.empty() && (key == key_ || key == reading_)) return;
    if (waits()) return;
    const auto folder = key.empty() ? std::filesystem::path() : which_()->folder;
    // Of a run on its way what was opened last stays to be seen until the next is there.
    if (folder != folder_) {
        flow_.reset();
        shapes_.clear();
        before_.clear();
        shaping_.forget();
        error_.clear();
        key_.clear();
    }
    folder_ = folder;
    reading_ = key;
    if (key.empty()) {
        opening_.forget();
        return;
    }
    opening_.start(
        [folder = which_()->folder, file = document_.gridFile(), grid = document_.grid(),
         geometry = document_.geometry()](const auto&) {
            Opened out;
            QElapsedTimer took;
            took.start();
            try {
                out.flow = campaign::openFlow(folder, file, grid, geometry);
            } catch (const std::exception& e) {
                out.error = e.what();
            }
            out.seconds = 1e-3 * static_cast<double>(took.elapsed());
            return out;
        },
        [this, key](Opened opened) {
            for (const auto& i : items())
                if (const auto it = shapes_.find(ownKey(i)); it != shapes_.end()) before_[itemKey(i)] = it->second;
            if (!shapes_.empty()) beforeKey_ = key_;
            shaping_.forget();
            flow_ = std::move(opened.flow);
            error_ = opened.error;
            cost_ = opened.seconds;
            shownFor_.start();
            if (flow_) first_ = view::firstItems(*flow_);
            key_ = key;
            reading_.clear();
            emit changed();
        });
}

std::vector<campaign::FlowItem> FlowLoader::items() const {
    const auto& own = document_.settings().flowItems;
    return own.empty() ? first_ : own;
}

std::string FlowLoader::itemKey(const campaign::FlowItem& i) const {
    // Names and ticks do not change a shape.
    auto item = i;
    item.name.clear();
    item.shown = true;
    return lessKey_ + "|" + campaign::itemInJson(item).dump();
}

std::string FlowLoader::ownKey(const campaign::FlowItem& i) const {
    return key_ + "|" + itemKey(i);
}

std::string FlowLoader::keyOf(const campaign::FlowItem& i) const {
    const auto own = ownKey(i);
    return shapes_.contains(own) || !before_.contains(itemKey(i)) ? own : beforeKey_ + "|" + itemKey(i);
}

void FlowLoader::compareWith(std::shared_ptr<const field::FlowField> other, const std::string& key) {
    less_ = std::move(other);
    lessKey_ = less_ ? key : std::string();
}

std::shared_ptr<const view::ItemShape> FlowLoader::shapeOf(const campaign::FlowItem& item) const {
    if (const auto it = shapes_.find(ownKey(item)); it != shapes_.end()) return it->second;
    const auto it = before_.find(itemKey(item));
    return it == before_.end() ? nullptr : it->second;
}

void FlowLoader::makeShapes() {
    if (!flow_) return;
    std::vector<std::pair<std::string, campaign::FlowItem>> missing;
    Shapes kept;
    for (const auto& i : items()) {
        const auto key = ownKey(i);
        if (const auto it = shapes_.find(key); it != shapes_.end())
            kept.insert(*it);
        else if (i.shown)
            missing.emplace_back(key, i);
    }
    shapes_ = std::move(kept);
    // Work that leads to all of them goes on: asked for again and again it would never end.
    if (shaping_.running() &&
        std::all_of(missing.begin(), missing.end(), [&](const auto& m) { return inWork_.contains(m.first); }))
        return;
    if (missing.empty()) return;
    inWork_.clear();
    for (const auto& m : missing) inWork_.insert(m.first);
    const auto seconds = std::make_shared<double>(0.0);
    shaping_.start(
        [flow = flow_, less = less_, missing, seconds](const Job<Shapes>::Wanted& wanted) {
            Shapes out;
            QElapsedTimer took;
            took.start();
            for (const auto& [key, item] : missing) {
                if (!wanted()) break;
                out[key] = std::make_shared<const view::ItemShape>(less && item.kind == campaign::FlowItem::Kind::Wall
                                                                       ? view::wallDifference(item, *flow, *less)
                                                                       : view::shapeOf(item, *flow, wanted));
            }
            *seconds = 1e-3 * static_cast<double>(took.elapsed());
            return out;
        },
        [this, seconds](Shapes made) {
            cost_ += *seconds;
            shapes_.merge(made);
            before_.clear();
            emit changed();
        });
}

QString FlowLoader::excuse() const {
    if (opening_.running()) return tr("Opening the flow\u2026");
    return error_.isEmpty() ? tr("This point has no result yet. Run it from the point board.") : error_;
}

}  // namespace cvane::desk
