#include "campaign/steps/reports.h"

#include <algorithm>

#include "base/errors.h"
#include "base/median.h"
#include "base/text.h"
#include "campaign/settings/fields.h"
#include "campaign/store/model_source.h"

namespace cvane::campaign {

namespace {
std::string modelKey(const Campaign& c) {
    const auto j = toJson(c.settings);
    auto model = j["model"];
    model.erase("aircraft");  // both are in their source's sum
    model.erase("outline");
    for (auto& part : model["parts"]) part.erase("name");
    return model.dump() + (c.settings.tunnel.halfModel ? " half " : " whole ") + sourceOf(c)->sum();
}
}  // namespace

ModelMeasures MeasureBook::measures(const Campaign& c) {
    const auto key = modelKey(c);
    {
        const std::lock_guard lock(mutex_);
        if (const auto it = known_.find(key); it != known_.end()) return it->second;
    }
    const auto m = measure(c, placedModel(c));
    const std::lock_guard lock(mutex_);
    return known_[key] = m;
}

void MeasureBook::note(const Campaign& c, const ModelMeasures& m) {
    const std::lock_guard lock(mutex_);
    known_[modelKey(c)] = m;
}

void forEachReport(const Campaign& base, MeasureBook& book, const std::function<bool(PointReport)>& take) {
    if (!base.hasModel()) return;
    std::optional<Campaign> seen;  // of the point before: points of one configuration and set-up follow each other
    air::Reference reference;
    Point before;
    for (const Point& p : pointsOf(base.settings)) {
        if (!seen || p.configuration != before.configuration || p.setUp != before.setUp ||
            isAngle(p.condition.beta_deg) != isAngle(before.condition.beta_deg)) {
            seen = base.of(p);
            reference = book.reference(*seen);
        }
        before = p;
        if (!take(reportOf(*seen, p, reference))) return;
    }
}

std::vector<PointReport> reportsOf(const Campaign& base, MeasureBook& book) {
    std::vector<PointReport> out;
    forEachReport(base, book, [&](PointReport r) {
        out.push_back(std::move(r));
        return true;
    });
    return out;
}

std::optional<double> secondsForeseen(const std::vector<PointReport>& reports) {
    const auto medianOf = [&](auto&& counts) {
        std::vector<double> seconds;
        for (const auto& r : reports)
            if (isDone(r.state) && r.result && counts(r.point)) seconds.push_back(r.result->seconds);
        return seconds.empty() ? 0.0 : base::medianOf(std::move(seconds));
    };
    const double any = medianOf([](const Point&) { return true; });
    double total = 0.0;
    for (const auto& r : reports) {
        if (isDone(r.state)) continue;
        const double own = medianOf([&](const Point& p) {
            return Point{{}, p.configuration, p.setUp, p.method} ==
                   Point{{}, r.point.configuration, r.point.setUp, r.point.method};
        });
        total += own > 0.0 ? own : any;
    }
    return total > 0.0 ? std::optional(total) : std::nullopt;
}

Point pointNamed(const Settings& s, const std::string& name) {
    for (const Point& p : pointsOf(s))
        if (p.name() == name) return p;
    throw base::InputError("no point of the schedule has that name.", base::printable(name),
                           "Names look like v12.00_a2.00_b0.00; the command \"table\" lists the schedule.");
}

}  // namespace cvane::campaign
