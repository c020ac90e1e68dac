#pragma once
#include <vector>

#include "campaign/plan/points.h"
#include "campaign/plan/preflight.h"

namespace cvane::campaign {

/// What is to be said before a run about gas, Mach number and the tunnel's sides, of all points together.
class WindRemarks {
  public:
    WindRemarks(const Campaign& c, const ModelMeasures& m) : campaign_(c), model_(m) {}
    void look(const Point& point, const air::FreeStream& wind);
    /// Puts the remarks behind the others.
    void tell(std::vector<Remark>& out) const;

  private:
    void lookAtClosedTunnel(const Point& point, const air::FreeStream& wind);
    const Campaign& campaign_;
    const ModelMeasures& model_;
    double fastest_ = 0.0;  ///< Mach number of those that are taken as incompressible
    bool tooFast_ = false, chokes_ = false, reflects_ = false;
    std::vector<Remark> remarks_;
};

}  // namespace cvane::campaign
