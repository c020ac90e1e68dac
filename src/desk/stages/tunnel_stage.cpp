#include "desk/stages/tunnel_stage.h"

#include <QCheckBox>
#include <QDoubleSpinBox>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/propellers.h"
#include "campaign/steps/flow_case.h"
#include "desk/look.h"
#include "desk/note_room.h"
#include "desk/scene.h"
#include "desk/stages/device_panel.h"
#include "desk/stages/gas_panel.h"

namespace cvane::desk {

TunnelStage::TunnelStage(Document& d, Middle& m) : Stage(d, m), planJob_(*this, d.pool()) {
    makeSheet();
    box_ = note();
    box_->setObjectName("tunnelSize");
    column_->addWidget(box_);
    auto* what = section(tr("Around the model"));
    choice(what, "tunnel.ground", tr("Ground"), "ground", tr("change the ground"),
           {tr("none, free air"), tr("at rest"), tr("moving with the air")});
    addRideHeight(what);
    const auto layer = tr("change where the ground's boundary layer begins");
    choice(what, "tunnel.ground_layer", tr("Ground layer from"), "groundLayer", layer,
           {tr("the inlet"), tr("ahead of the model"), tr("the model")});
    number(what, "tunnel.ground_layer_ahead_lengths", tr("Ahead by body lengths"), "groundLayerAhead", 2, layer);
    choice(what, "tunnel.model", tr("Model"), "modelExtent", tr("change between whole and half model"),
           {tr("whole"), tr("half, mirrored at y = 0"), tr("half if symmetric")});
    choice(what, "tunnel.closed", tr("Sides"), "tunnelSides", tr("change the tunnel's sides"),
           {tr("open, any wind"), tr("walls, wind along x")});
    section(tr("Gas"))->addRow(new GasPanel(document_));
    auto* inTheAir = section(tr("Devices"));
    inTheAir->addRow(new DevicePanel(document_));
    auto* extent = section(tr("Extent in body lengths"));
    const auto add = [&](const char* setting, const QString& label, const char* name) {
        number(extent, setting, label, name, 1, tr("change the tunnel"));
    };
    add("tunnel.upstream_lengths", tr("Upstream"), "upstream");
    add("tunnel.downstream_lengths", tr("Downstream"), "downstream");
    add("tunnel.sideways_lengths", tr("To each side"), "sideways");
    add("tunnel.above_lengths", tr("Above"), "above");
    add("tunnel.below_lengths", tr("Below"), "below");
    listenToHand();
    remarks_ = note({}, true);
    column_->addWidget(roomFor(remarks_, 8));
    column_->addStretch(1);
    document_.when(Change::Settings, this, [this] {
        const auto& t = document_.settings().tunnel;
        const bool heldGround = t.floor == grid::Floor::Fixed;
        if (auto* box = sheet_->findChild<QWidget*>("groundLayer")) box->setEnabled(heldGround);
        if (auto* box = sheet_->findChild<QWidget*>("groundLayerAhead"))
            box->setEnabled(heldGround && t.groundLayer == grid::LayerFrom::Ahead);
        if (!document_.modelReady()) return;
        QString text;
        for (const auto& r : document_.remarks()) text += "\u2022 " + QString::fromStdString(r.text) + "\n";
        remarks_->setText(text.trimmed());
        if (current_) show();
        try {
            const Box b = grid::tunnelBox(tunnel(), document_.measures().bounds);
            const Vec3 s = b.size();
            box_->setText(tr("%1 m long, %2 m wide, %3 m high. %4")
                              .arg(s.x(), 0, 'g', 4)
                              .arg(s.y(), 0, 'g', 4)
                              .arg(s.z(), 0, 'g', 4)
                              .arg(tr("The model %1 of its section.").arg(keyFigure())));
            if (const auto extent = campaign::extentSentence(document_.settings()); !extent.empty())
                box_->setText(box_->text() + " " + QString::fromStdString(extent));
        } catch (const base::InputError& e) {
            box_->setText(e.what());
        }
    });
}

// The tunnel's, or that of the configuration that is looked at.
void TunnelStage::addRideHeight(QFormLayout* form) {
    number(form, "tunnel.ride_height_m", tr("Ride height"), "rideHeight", 4, tr("change the ride height"),
           [](campaign::Settings& s) -> double& {
               return s.model.rideHeight ? *s.model.rideHeight : s.tunnel.rideHeight;
           });
    auto* own = new QCheckBox(tr("configuration\u2019s own"));
    own->setObjectName("ownRideHeight");
    explain(*own, "model.ride_height_m");
    form->addRow(QString(), own);
    connect(own, &QCheckBox::toggled, this, [this](bool on) {
        if (!document_.isOpen()) return;
        auto s = document_.settings();
        s.model.rideHeight = on ? std::optional(s.tunnel.rideHeight) : std::nullopt;
        change(tr("change whose ride height it is"), s);
    });
    document_.when(Change::Settings, own, [this, own] {
        const QSignalBlocker quiet(own);
        const auto& s = document_.settings();
        own->setChecked(s.model.rideHeight.has_value());
        own->setEnabled(!document_.configuration().empty() || s.model.rideHeight);
    });
}

QString TunnelStage::keyFigure() const {
    if (!document_.modelReady()) return {};
    try {
        const Box b = grid::tunnelBox(tunnel(), document_.measures().bounds);
        return tr("blocks %1 %")
            .arg(100.0 * grid::blockage(
                             b, document_.measures().frontal * (document_.settings().tunnel.halfModel ? 0.5 : 1.0)),
                 0, 'f', 2);
    } catch (const base::InputError&) {
        return tr("cannot be made");
    }
}

Stage::State TunnelStage::state() const {
    if (!document_.modelReady()) return State::NeedsModel;
    try {
        grid::tunnelBox(tunnel(), document_.measures().bounds);
        return State::Ready;
    } catch (const base::InputError&) {
        return State::NeedsYou;
    }
}

void TunnelStage::show() {
    middle_.showCanvas();
    scene_.begin();
    if (!document_.modelReady()) {
        scene_.finish();
        return;
    }
    const auto& s = document_.placed();
    int number = 0;
    const auto put = [&](vtkSmartPointer<vtkProp> prop) {
        scene_.add("line " + std::to_string(number++), std::move(prop));
    };
    drawModel();
    const auto& devices = document_.settings().devices;
    for (const auto& d : campaign::discsOf(document_.settings()))
        if (d.axis.norm() > 0.0) {
            const Vec3 n = d.axis.normalized(),
                       u = n.cross(std::abs(n.z()) < 0.9 ? Vec3(Vec3::UnitZ()) : Vec3(Vec3::UnitX())).normalized(),
                       v = n.cross(u);
            for (const double radius : {d.outer, d.inner}) {
                std::vector<Vec3> ring;
                for (int k = 0; k <= 48; ++k)
                    ring.push_back(d.centre + radius * (std::cos(k * base::degree * 7.5) * u +
                                                        std::sin(k * base::degree * 7.5) * v));
                put(scene::pathActor(ring, look::accent));
            }
            put(scene::pathActor({d.centre, d.centre + (d.thrust < 0.0 ? -1.0 : 1.0) * d.outer * n}, look::accent));
        }
    for (const auto& b : devices.blocks) {
        Box box;
        box.add(b.from);
        box.add(b.to);
        put(scene::boxActor(box, look::accent));
    }
    for (const auto& w : devices.wheels) try {
            const auto m = campaign::motionOf(w, s, document_.tunnel(), 1.0);
            const double reach = m.spin.norm() > 0.0 ? 0.06 * document_.measures().bounds.size().maxCoeff() : 0.0;
            if (reach > 0.0)
                put(scene::pathActor({m.centre - reach * m.spin.normalized(), m.centre + reach * m.spin.normalized()},
                                     look::accent));
        } catch (const base::InputError&) {
            // Said among the remarks.
        }
    try {
        Box b = grid::tunnelBox(tunnel(), document_.measures().bounds);
        put(scene::boxActor(b, look::calm));
        showHandles(b);
        if (document_.settings().tunnel.floor != grid::Floor::None) {
            // The ground near the model as a sheet, so that the ride height can be seen.
            shape::Surface ground;
            const double L = document_.measures().bounds.size().maxCoeff();
            const Box m = document_.measures().bounds;
            const double z = b.low.z();
            ground.points = {{m.low.x() - L, m.low.y() - L, z},
                             {m.high.x() + L, m.low.y() - L, z},
                             {m.high.x() + L, m.high.y() + L, z},
                             {m.low.x() - L, m.high.y() + L, z}};
            ground.facets = {{0, 1, 2}, {0, 2, 3}};
            ground.partOf = {0, 0};
            put(scene::surfaceActor(ground, 0, QColor(0xc9, 0xd3, 0xc4), 0.7));
        }
    } catch (const base::InputError&) {
    }
    scene_.finish();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
