#include "desk/model/wing_work.h"

#include "base/errors.h"

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

namespace {
template <class Found, class Shown>
Found computed(const wing::Aircraft& aircraft, const lifting::Asked& asked, bool whole,
               const std::shared_ptr<lifting::PolarShelf>& shelf, const std::function<bool()>& wanted) {
    Found out;
    auto shown = std::make_shared<Shown>();
    shown->aircraft = aircraft;
    shown->asked = asked;
    shown->whole = whole;
    auto now = asked;
    if (!whole) now.sectionDrag = now.holdStrips = false;
    try {
        shown->outcome = lifting::run(
            shown->aircraft, now, [&](double, std::string_view) { return wanted(); }, shelf);
        out.shown = std::move(shown);
    } catch (const base::Cancelled&) {
        // Something else was asked for.
    } catch (const std::exception& e) {
        out.trouble = e.what();
    }
    return out;
}
}  // namespace

void WingWork::ask(const wing::Aircraft& aircraft, const lifting::Asked& asked) {
    whole_.forget();
    words_ = tr("computing");
    quick_.start(
        [aircraft, asked, shelf = shelf_](const auto& wanted) {
            return computed<Found, Shown>(aircraft, asked, !asked.sectionDrag && !asked.holdStrips, shelf, wanted);
        },
        [this, aircraft, asked](Found found) {
            trouble_ = found.trouble;
            if (found.shown) shown_ = found.shown;
            words_.clear();
            if (found.shown && !found.shown->whole) startWhole(aircraft, asked);
            emit moved();
        });
    emit moved();
}

void WingWork::startWhole(const wing::Aircraft& aircraft, const lifting::Asked& asked) {
    words_ = tr("polars of the sections are on their way");
    whole_.start([aircraft, asked, shelf = shelf_](
                     const auto& wanted) { return computed<Found, Shown>(aircraft, asked, true, shelf, wanted); },
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
