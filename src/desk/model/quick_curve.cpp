#include "desk/model/quick_curve.h"

#include "base/units.h"
#include "campaign/plan/points.h"
#include "shape/clip.h"
#include "wing/measures.h"
#include "wing/shadow.h"

namespace cvane::desk {
using base::degree;

namespace {
constexpr double kBeyond_deg = 1.0;  // the curve goes on past the schedule's angles
constexpr double kMost_deg = 20.0;   // and not where wings have stalled for long
constexpr int kAngles = 13;
}  // namespace

QuickCurve::QuickCurve(Document& document) : document_(document) {
    pool_.setMaxThreadCount(1);
}

QuickCurve::~QuickCurve() {
    job_.forget();
    pool_.waitForDone();
}

void QuickCurve::wanted() {
    const auto& s = document_.settings();
    const auto& alphas = s.schedule.alphas_deg;
    const bool has = document_.modelReady() && !alphas.empty();
    if (!has) {
        job_.forget();
        of_.reset();
        points_.reset();
        return;
    }
    const auto [least, most] = std::minmax_element(alphas.begin(), alphas.end());
    const double from = std::max(-kMost_deg, *least - kBeyond_deg), to = std::min(kMost_deg, *most + kBeyond_deg);
    lifting::Asked asked;
    for (int k = 0; k < kAngles; ++k) asked.alphas.push_back((from + (to - from) * k / (kAngles - 1)) * degree);
    asked.speed = s.schedule.speeds.empty() ? asked.speed : s.schedule.speeds.front();
    asked.air = campaign::airOf(s.air);
    asked.sectionDrag = asked.derivatives = false;
    // A model that is turned or shifted no longer stands as its numbers say: its outline does.
    const bool asNumbered = s.model.placement == shape::Placement{};
    const Of of{asNumbered ? s.model.aircraft : std::nullopt, asked, document_.modelGeneration(),
                document_.reference().area};
    if (of_ == of) return;  // another setting has changed
    of_ = of;
    job_.start(
        [asked, aircraft = of.aircraft, placed = document_.placedShared(),
         area = of.area](const auto& wanted) -> std::shared_ptr<const Points> {
            try {
                const auto a = aircraft ? aircraft : wing::flatWingsOf(shape::withoutHiddenParts(*placed));
                if (!a || !(area > 0.0)) return nullptr;
                const auto out = lifting::run(*a, asked, [&](double, std::string_view) { return wanted(); });
                auto p = std::make_shared<Points>();
                p->ofOutline = !aircraft;
                const double scale = out.reference.area / area;
                for (const auto& r : out.rows) {
                    p->alpha_deg.push_back(r.wind.alpha / degree);
                    p->CL.push_back(r.coefficients.CL * scale);
                    p->CD.push_back(r.inducedFar * scale);
                }
                return p;
            } catch (const std::exception&) {
                return nullptr;  // a curve beside others: none is no trouble
            }
        },
        [this](std::shared_ptr<const Points> p) {
            points_ = std::move(p);
            emit moved();
        });
}

}  // namespace cvane::desk
