#include "desk/model/wing_work.h"

#include "base/errors.h"
#include "wing/skin.h"

namespace cvane::desk {

WingWork::WingWork() {
    pool_.setMaxThreadCount(2);  // what shows at once does not wait for polars
}

WingWork::~WingWork() {
    clear();
    pool_.waitForDone();
}

void WingWork::clear() {
    quick_.forget();
    whole_.forget();
    shown_.reset();
    trouble_.clear();
    words_.clear();
}

void WingWork::keepPolarsIn(const std::filesystem::path& folder) {
    if (folder == folder_) return;
    folder_ = folder;
    shelf_ = std::make_shared<lifting::PolarShelf>(folder);
}

WingWork::Found WingWork::computed(const Wanted& wanted, bool whole, const std::shared_ptr<lifting::PolarShelf>& shelf,
                                   const std::function<bool()>& goOn) {
    Found out;
    auto shown = std::make_shared<Shown>();
    shown->aircraft = wanted.aircraft;
    shown->asked = wanted.asked;
    shown->loadings = wanted.others;
    shown->whole = whole;
    const auto run = [&](const wing::Aircraft& aircraft, lifting::Asked asked) {
        if (!whole) asked.sectionDrag = asked.holdStrips = false;
        return lifting::run(
            aircraft, asked, [&](double, std::string_view) { return goOn(); }, shelf);
    };
    try {
        shown->outcome = run(shown->aircraft, wanted.asked);
        for (const auto& l : shown->loadings) {
            auto asked = l.asked;
            asked.derivatives = false;  // its curve alone is shown
            shown->outcomes.push_back(run(l.aircraft, asked));
        }
        // Not while a station is dragged, which asks for no polars: the skin takes longer than the loading.
        if (whole && wanted.needsPolars()) shown->wetted = wing::skinOf(shown->aircraft).area();
        out.shown = std::move(shown);
    } catch (const base::Cancelled&) {
        // Something else was asked for.
    } catch (const std::exception& e) {
        out.trouble = e.what();
    }
    return out;
}

void WingWork::ask(const wing::Aircraft& aircraft, const lifting::Asked& asked, std::vector<lifting::Loading> others) {
    whole_.forget();
    words_ = tr("computing");
    const auto wanted = std::make_shared<const Wanted>(Wanted{aircraft, asked, std::move(others)});
    quick_.start(
        [wanted, shelf = shelf_](const auto& goOn) { return computed(*wanted, !wanted->needsPolars(), shelf, goOn); },
        [this, wanted](Found found) {
            trouble_ = found.trouble;
            if (found.shown) shown_ = found.shown;
            words_.clear();
            if (found.shown && !found.shown->whole) startWhole(wanted);
            emit moved();
        });
    emit moved();
}

void WingWork::startWhole(const std::shared_ptr<const Wanted>& wanted) {
    words_ = tr("polars of the sections are on their way");
    whole_.start([wanted, shelf = shelf_](const auto& goOn) { return computed(*wanted, true, shelf, goOn); },
                 [this](Found found) {
                     words_.clear();
                     if (found.shown)
                         shown_ = found.shown;
                     else
                         words_ = found.trouble;  // what stands without the sections' drag stays
                     emit moved();
                 });
}

}  // namespace cvane::desk
