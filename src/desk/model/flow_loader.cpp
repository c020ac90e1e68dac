#include "desk/model/flow_loader.h"

#include <fmt/format.h>

#include <algorithm>

#include "campaign/store/stored_flow.h"
#include "desk/fields.h"

namespace cvane::desk {

FlowLoader::FlowLoader(Document& d) : document_(d) {
    pool_.setMaxThreadCount(2);
    document_.when(Change::Points | Change::Selection | Change::Campaign, this, [this] {
        if (const auto key = keyOfFlow(document_.selectedReport()); key != key_ && key != reading_) emit changed();
    });
}

FlowLoader::~FlowLoader() {
    opening_.forget();
    shaping_.forget();
    pool_.waitForDone();
}

void FlowLoader::wanted() {
    const std::string key = keyOfFlow(document_.selectedReport());
    if (!key.empty() && (key == key_ || key == reading_)) return;
    flow_.reset();
    shapes_.clear();
    shaping_.forget();
    error_.clear();
    key_.clear();
    reading_ = key;
    if (key.empty()) {
        opening_.forget();
        return;
    }
    opening_.start(
        [folder = document_.selectedReport()->folder, file = campaign::gridFile(document_.campaign()),
         grid = document_.grid(), geometry = document_.geometry()](const auto&) {
            Opened out;
            try {
                out.flow = campaign::openFlow(folder, file, grid, geometry);
            } catch (const std::exception& e) {
                out.error = e.what();
            }
            return out;
        },
        [this, key](Opened opened) {
            flow_ = std::move(opened.flow);
            error_ = opened.error;
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

std::string FlowLoader::keyOf(const campaign::FlowItem& i) const {
    const auto list = [](const Vec3& v) { return fmt::format("{},{},{}", v.x(), v.y(), v.z()); };
    return fmt::format("{}|{}|{}|{}|{}|{}|{}|{}|{}|{}|{}|{}", key_, static_cast<int>(i.kind), i.quantity, i.value,
                       i.colour, list(i.through), list(i.normal), list(i.from), list(i.to), i.count, i.low, i.high);
}

std::shared_ptr<const view::ItemShape> FlowLoader::shapeOf(const campaign::FlowItem& item) const {
    const auto it = shapes_.find(keyOf(item));
    return it == shapes_.end() ? nullptr : it->second;
}

void FlowLoader::makeShapes() {
    if (!flow_) return;
    std::vector<std::pair<std::string, campaign::FlowItem>> missing;
    Shapes kept;
    for (const auto& i : items()) {
        const auto key = keyOf(i);
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
    shaping_.start(
        [flow = flow_, missing](const Job<Shapes>::Wanted& wanted) {
            Shapes out;
            for (const auto& [key, item] : missing) {
                if (!wanted()) break;
                out[key] = std::make_shared<const view::ItemShape>(view::shapeOf(item, *flow, wanted));
            }
            return out;
        },
        [this](Shapes made) {
            shapes_.merge(made);
            emit changed();
        });
}

QString FlowLoader::excuse() const {
    if (opening_.running()) return tr("Opening the flow\u2026");
    return error_.isEmpty() ? tr("The selected point has no result yet. Run it from the point board.") : error_;
}

}  // namespace cvane::desk
