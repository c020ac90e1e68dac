// Which points the open campaign has, how they stand, and which is selected.
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "desk/model/document.h"

namespace cvane::desk {

namespace {
// Whether all that stages read of a point but its progress is the same.
bool sameValues(const campaign::PointReport& a, const campaign::PointReport& b) {
    return a.state == b.state && a.folder == b.folder && a.message == b.message &&
           a.result.has_value() == b.result.has_value() &&
           (!a.result ||
            (a.result->seconds == b.result->seconds && a.result->iterations == b.result->iterations &&
             a.result->readings().onGrid == b.result->readings().onGrid && a.result->reference == b.result->reference));
}
}  // namespace

const campaign::PointReport* Document::reportOf(const campaign::Point& p) const {
    const auto it = std::find_if(reports_.begin(), reports_.end(), [&](const auto& r) { return r.point == p; });
    return it == reports_.end() ? nullptr : &*it;
}

std::vector<campaign::Point> Document::picked() const {
    std::vector<campaign::Point> out;
    if (!selected_) return out;
    out.push_back(*selected_);
    if (std::find(picked_.begin(), picked_.end(), *selected_) == picked_.end()) return out;
    // In the order of the schedule.
    for (const auto& r : reports_)
        if (!(r.point == *selected_) && std::find(picked_.begin(), picked_.end(), r.point) != picked_.end())
            out.push_back(r.point);
    return out;
}

void Document::pick(std::vector<campaign::Point> points) {
    if (points == picked_) return;
    picked_ = std::move(points);
    tell(Change::Selection);
}

void Document::select(const campaign::Point& p) {
    const Telling once(*this);
    if (!isOpen() || !reportOf(p) || selected_ == p) return;
    selected_ = p;
    tell(Change::Selection);
    lookAt(p.configuration, p.setUp);
    lookAsSelected();
}

void Document::listPoints() {
    const Telling once(*this);
    // Which points there are is known at once; how they stand is read from their files.
    std::vector<campaign::PointReport> listed;
    try {
        for (const auto& p : campaign::pointsOf(base_->settings)) {
            const auto* known = reportOf(p);
            listed.push_back(known ? *known : campaign::PointReport{});
            listed.back().point = p;
        }
    } catch (const std::exception&) {
        // The preflight list names what is wrong with the schedule.
    }
    const bool changes = !std::equal(listed.begin(), listed.end(), reports_.begin(), reports_.end(),
                                     [](const auto& a, const auto& b) { return a.point == b.point; });
    if (changes) {
        reportsKnown_ = false;
        reports_ = std::move(listed);
        tell(Change::Points | Change::Values);
    }
    if (selected_ && reportOf(*selected_)) return;
    // A point that is gone: the nearest condition of what is looked at takes its place.
    const auto before = selected_;
    std::optional<campaign::Point> nearest;
    double least = 1e300;
    for (const auto& r : reports_) {
        if (r.point.configuration != configuration_ || r.point.setUp != setUp_) continue;
        const auto& c = r.point.condition;
        const double distance = before ? std::abs(c.alpha_deg - before->condition.alpha_deg) +
                                             std::abs(c.beta_deg - before->condition.beta_deg) +
                                             std::abs(c.speed - before->condition.speed) +
                                             (r.point.method == before->method ? 0.0 : 1e-3)
                                : r.point.method == campaign::Method::Field ? 0.0
                                                                            : 1.0;
        if (distance < least) {
            least = distance;
            nearest = r.point;
        }
    }
    selected_ = nearest;
    if (selected_ == before) return;
    tell(Change::Selection);
    lookAsSelected();
}

void Document::refreshReports() {
    if (!modelReady()) return;
    // What is being read may be of a moment ago: it is read once more when it is there.
    if (reportsJob_.running()) {
        reportsAgain_ = true;
        return;
    }
    reportsJob_.start(
        [c = *base_, book = book_](const auto& wanted) {
            std::vector<campaign::PointReport> reports;
            try {
                campaign::forEachReport(c, *book, [&](campaign::PointReport r) {
                    reports.push_back(std::move(r));
                    return wanted();
                });
            } catch (const std::exception&) {
                // The preflight list names what is wrong.
            }
            return reports;
        },
        [this](const std::vector<campaign::PointReport>& read) {
            const Telling once(*this);
            bool others = !reportsKnown_;
            for (auto& r : reports_)
                for (const auto& now : read)
                    if (now.point == r.point) {
                        others = others || !sameValues(r, now);
                        r = now;
                    }
            if (reportsAgain_) {
                reportsAgain_ = false;
                refreshReports();
            } else {
                reportsKnown_ = true;
            }
            tell(others ? Change::Points | Change::Values : Changes(Change::Points));
        });
}

}  // namespace cvane::desk
