#include "solid/solid_file.h"

#include <fmt/format.h>

#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <IGESCAFControl_Reader.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Poly_Triangulation.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <Standard_Failure.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <algorithm>
#include <cmath>
#include <set>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "shape/seams.h"

namespace cvane::solid {
namespace fs = std::filesystem;

namespace {
constexpr double kMillimetre = 1e-3;  // in which the library hands over what it reads, whatever the file's unit
constexpr double kAngle = 0.35;       // most that a facet's edge turns [rad]
constexpr std::size_t kMostFacets = 10'000'000;

std::string lower(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return s;
}
bool isIges(const fs::path& file) {
    const auto e = lower(file.extension().string());
    return e == ".igs" || e == ".iges";
}
std::string nameOf(const TDF_Label& label) {
    Handle(TDataStd_Name) name;
    if (!label.FindAttribute(TDataStd_Name::GetID(), name)) return {};
    const TCollection_AsciiString text(name->Get(), '?');
    return base::printable(std::string(text.ToCString()));
}
}  // namespace

struct SolidFile::Inside {
    Handle(TDocStd_Document) document;
    std::vector<TopoDS_Shape> shapes;  // one a body
};

bool isSolidFile(const fs::path& file) {
    const auto e = lower(file.extension().string());
    return e == ".step" || e == ".stp" || isIges(file);
}

namespace {
/// Walks the assembly tree down to its bodies.
class Collector {
  public:
    Collector(const Handle(TDocStd_Document) & document, std::vector<TopoDS_Shape>& shapes, std::vector<Body>& bodies)
        : tool_(XCAFDoc_DocumentTool::ShapeTool(document->Main())),
          colours_(XCAFDoc_DocumentTool::ColorTool(document->Main())),
          shapes_(shapes),
          bodies_(bodies) {
        TDF_LabelSequence roots;
        tool_->GetFreeShapes(roots);
        for (int k = 1; k <= roots.Length(); ++k) walk(roots.Value(k), TopLoc_Location(), "", "");
    }

  private:
    void walk(const TDF_Label& label, const TopLoc_Location& place, const std::string& within,
              const std::string& instance) {
        TDF_Label of = label;
        TopLoc_Location here = place;
        if (XCAFDoc_ShapeTool::IsReference(label)) {
            here = place * XCAFDoc_ShapeTool::GetLocation(label);
            XCAFDoc_ShapeTool::GetReferredShape(label, of);
        }
        // An instance is called as it is; where it has no name of its own, as what it is an instance of.
        std::string name = nameOf(label);
        if (name.empty() || name.starts_with("=>")) name = nameOf(of);
        if (name.empty()) name = instance;
        if (XCAFDoc_ShapeTool::IsAssembly(of)) {
            TDF_LabelSequence parts;
            XCAFDoc_ShapeTool::GetComponents(of, parts);
            const std::string path = within.empty() ? name : within + " / " + name;
            for (int k = 1; k <= parts.Length(); ++k) walk(parts.Value(k), here, path, name);
            return;
        }
        const TopoDS_Shape shape = XCAFDoc_ShapeTool::GetShape(of);
        if (shape.IsNull()) return;
        const TopoDS_Shape placed = shape.Moved(here);
        std::vector<TopoDS_Shape> found;
        for (TopExp_Explorer e(placed, TopAbs_SOLID); e.More(); e.Next()) found.push_back(e.Current());
        if (found.empty()) {
            // Faces without a solid are sewn; what closes is one.
            BRepBuilderAPI_Sewing sewing(1e-3);
            for (TopExp_Explorer e(placed, TopAbs_FACE); e.More(); e.Next()) sewing.Add(e.Current());
            sewing.Perform();
            const TopoDS_Shape sewn = sewing.SewedShape();
            if (!sewn.IsNull() && TopExp_Explorer(sewn, TopAbs_FACE).More()) {
                for (TopExp_Explorer e(sewn, TopAbs_SHELL); e.More(); e.Next()) found.push_back(e.Current());
                if (found.empty()) found.push_back(sewn);
            }
        }
        for (const auto& one : found) add(one, of, name, within);
    }

    void add(const TopoDS_Shape& shape, const TDF_Label& label, const std::string& name, const std::string& within) {
        Body b;
        b.name = name.empty() ? fmt::format("body {}", bodies_.size() + 1) : name;
        const std::string plain = b.name;
        for (int n = 2; !names_.insert(b.name).second; ++n) b.name = fmt::format("{} ({})", plain, n);
        b.within = within;
        Quantity_Color colour;
        if (colours_->GetColor(label, XCAFDoc_ColorGen, colour) || colours_->GetColor(label, XCAFDoc_ColorSurf, colour))
            b.colour = std::array{colour.Red(), colour.Green(), colour.Blue()};
        Bnd_Box box;
        BRepBndLib::AddOptimal(shape, box, false, false);
        double low[3], high[3];
        box.Get(low[0], low[1], low[2], high[0], high[1], high[2]);
        b.box.add(kMillimetre * Vec3(low[0], low[1], low[2]));
        b.box.add(kMillimetre * Vec3(high[0], high[1], high[2]));
        GProp_GProps surface, volume;
        BRepGProp::SurfaceProperties(shape, surface);
        b.area = surface.Mass() * kMillimetre * kMillimetre;
        bool closed = shape.ShapeType() == TopAbs_SOLID;
        if (!closed) closed = shape.ShapeType() == TopAbs_SHELL && BRep_Tool::IsClosed(shape);
        if (closed) {
            BRepGProp::VolumeProperties(shape, volume);
            b.volume = std::abs(volume.Mass()) * std::pow(kMillimetre, 3.0);
        }
        b.isSheet = !closed;
        bodies_.push_back(b);
        shapes_.push_back(shape);
    }

    Handle(XCAFDoc_ShapeTool) tool_;
    Handle(XCAFDoc_ColorTool) colours_;
    std::vector<TopoDS_Shape>& shapes_;
    std::vector<Body>& bodies_;
    std::set<std::string> names_;
};

// A box of planes around everything else.
void findBoxAround(std::vector<Body>& bodies, const std::vector<TopoDS_Shape>& shapes) {
    for (std::size_t i = 0; i < bodies.size(); ++i) {
        Box others;
        for (std::size_t j = 0; j < bodies.size(); ++j)
            if (j != i) others.add(bodies[j].box);
        if (others.empty()) return;
        const Box& b = bodies[i].box;
        const double near = 1e-6 * b.size().norm();
        bool holds =
            ((b.low.array() <= others.low.array() + near) && (b.high.array() >= others.high.array() - near)).all() &&
            (b.size().array() > 1.2 * others.size().array()).any();
        // Its outer faces are six planes; cut out of it may be what it holds.
        std::array<bool, 6> side{};
        for (TopExp_Explorer e(shapes[i], TopAbs_FACE); e.More() && holds; e.Next()) {
            const BRepAdaptor_Surface face(TopoDS::Face(e.Current()));
            if (face.GetType() != GeomAbs_Plane) continue;
            Bnd_Box box;
            BRepBndLib::AddOptimal(e.Current(), box, false, false);
            double low[3], high[3];
            box.Get(low[0], low[1], low[2], high[0], high[1], high[2]);
            for (std::size_t k = 0; k < 3; ++k) {
                const auto axis = static_cast<Eigen::Index>(k);
                if (high[k] - low[k] > 1e-6 * (1.0 + std::abs(high[k]))) continue;
                if (std::abs(kMillimetre * low[k] - b.low[axis]) < near) side[2 * k] = true;
                if (std::abs(kMillimetre * low[k] - b.high[axis]) < near) side[2 * k + 1] = true;
            }
        }
        holds = holds && std::all_of(side.begin(), side.end(), [](bool s) { return s; });
        bodies[i].holdsTheOthers = holds;
        if (holds) return;
    }
}
}  // namespace

SolidFile::SolidFile(const fs::path& file) : inside_(std::make_unique<Inside>()), where_(file.filename().string()) {
    const std::string bytes = base::readFile(file);
    const char* todo = "Export it again as STEP or IGES.";
    if (!isIges(file) && bytes.substr(0, 4096).find("ISO-10303-21") == std::string::npos)
        throw base::InputError("is no STEP file.", where_, todo);
    try {
        Message::DefaultMessenger()->ChangePrinters().Clear();
        XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", inside_->document);
        bool good = false;
        if (isIges(file)) {
            IGESCAFControl_Reader reader;
            reader.SetNameMode(true);
            reader.SetColorMode(true);
            good = reader.ReadFile(file.c_str()) == IFSelect_RetDone && reader.Transfer(inside_->document);
        } else {
            STEPCAFControl_Reader reader;
            reader.SetNameMode(true);
            reader.SetColorMode(true);
            good = reader.ReadFile(file.c_str()) == IFSelect_RetDone && reader.Transfer(inside_->document);
        }
        if (!good) throw base::InputError("is damaged, or holds nothing that can be read.", where_, todo);
        Collector(inside_->document, inside_->shapes, bodies_);
        if (bodies_.empty())
            throw base::InputError("holds no body.", where_, "Export the solids, not an empty assembly.");
        findBoxAround(bodies_, inside_->shapes);
    } catch (const Standard_Failure& e) {
        throw base::InputError(fmt::format("cannot be read ({}).", base::printable(e.GetMessageString())), where_,
                               todo);
    }
}

SolidFile::~SolidFile() = default;
SolidFile::SolidFile(SolidFile&&) noexcept = default;

double SolidFile::size() const {
    Box box;
    for (const auto& b : bodies_)
        if (!b.holdsTheOthers) box.add(b.box);
    return box.size().maxCoeff();
}

namespace {
std::size_t facetsOf(const TopoDS_Shape& shape) {
    std::size_t sum = 0;
    for (TopExp_Explorer e(shape, TopAbs_FACE); e.More(); e.Next()) {
        TopLoc_Location place;
        const auto mesh = BRep_Tool::Triangulation(TopoDS::Face(e.Current()), place);
        if (!mesh.IsNull()) sum += static_cast<std::size_t>(mesh->NbTriangles());
    }
    return sum;
}
std::size_t meshAll(const std::vector<TopoDS_Shape>& shapes, double tolerance) {
    std::size_t sum = 0;
    for (const auto& s : shapes) {
        BRepTools::Clean(s);
        BRepMesh_IncrementalMesh(s, tolerance / kMillimetre, false, kAngle, true);
        sum += facetsOf(s);
    }
    return sum;
}
}  // namespace

Facets SolidFile::facetsAt(double tolerance) const {
    if (!(tolerance > 0.0))
        throw base::InputError("the facet tolerance has to be above 0.", where_,
                               fmt::format("The usual one is {:.2g} m.", usualTolerance()));
    try {
        const auto refuse = [&](const std::string& facets) {
            throw base::InputError(fmt::format("a facet tolerance of {:.2g} m leads to {} facets.", tolerance, facets),
                                   where_,
                                   fmt::format("Take a larger one; the usual one is {:.2g} m.", usualTolerance()));
        };
        if (tolerance < 1e-3 * usualTolerance()) {
            // Facets go with the tolerance's inverse at most: a coarse look first tells what cannot be.
            constexpr double kCoarser = 64.0;
            const double most = kCoarser * static_cast<double>(meshAll(inside_->shapes, kCoarser * tolerance));
            if (most > static_cast<double>(kMostFacets)) refuse(fmt::format("some {:.0e}", most));
        }
        const auto count = meshAll(inside_->shapes, tolerance);
        if (count > kMostFacets) refuse(std::to_string(count));
        return {tolerance, count};
    } catch (const Standard_Failure& e) {
        throw base::InputError(
            fmt::format("its faces cannot be cut into facets ({}).", base::printable(e.GetMessageString())), where_,
            "Export it again.");
    }
}

std::vector<Facets> SolidFile::facetChoices() const {
    std::vector<Facets> out;
    for (const double share : {4.0, 1.0, 0.25}) out.push_back(facetsAt(share * usualTolerance()));
    return out;
}

shape::Surface SolidFile::surface(double tolerance) const {
    facetsAt(tolerance);
    shape::Surface s;
    for (std::size_t b = 0; b < bodies_.size(); ++b) {
        s.parts.push_back({bodies_[b].name, !bodies_[b].holdsTheOthers});
        for (TopExp_Explorer e(inside_->shapes[b], TopAbs_FACE); e.More(); e.Next()) {
            const TopoDS_Face& face = TopoDS::Face(e.Current());
            TopLoc_Location place;
            const auto mesh = BRep_Tool::Triangulation(face, place);
            if (mesh.IsNull()) continue;
            const auto first = static_cast<std::int32_t>(s.points.size());
            for (int k = 1; k <= mesh->NbNodes(); ++k) {
                const gp_Pnt p = mesh->Node(k).Transformed(place);
                s.points.emplace_back(kMillimetre * p.X(), kMillimetre * p.Y(), kMillimetre * p.Z());
            }
            const bool turned = face.Orientation() == TopAbs_REVERSED;
            for (int k = 1; k <= mesh->NbTriangles(); ++k) {
                int a = 0, c = 0, d = 0;
                mesh->Triangle(k).Get(a, c, d);
                if (turned) std::swap(c, d);
                s.facets.push_back({first + a - 1, first + c - 1, first + d - 1});
                s.partOf.push_back(static_cast<std::int32_t>(b));
            }
        }
    }
    if (s.facets.empty())
        throw base::InputError("holds no face that can be cut into facets.", where_, "Export it again.");
    shape::weld(s);
    // Faces meet along edges that each has cut for itself; bodies stay apart.
    auto joined = shape::joinedWithin(s, 1e-7 * size()).surface;
    shape::orientFacets(joined);
    return joined;
}

std::string SolidSource::sum() const {
    const auto bytes = shape::SurfaceFile(file_, 1.0).sum();
    return tolerance_ ? shape::sumOf({bytes, *tolerance_}) : bytes;
}

shape::Surface SolidSource::surface() const {
    const SolidFile file(file_);
    return file.surface(tolerance_.value_or(file.usualTolerance()));
}

}  // namespace cvane::solid
