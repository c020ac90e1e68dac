#include "field/wall_lines.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>
#include <unordered_map>

namespace cvane::field {

WallSkin::WallSkin(const Mesh& mesh, const std::vector<FaceIndex>& faces) : mesh_(mesh) {
    std::unordered_map<std::uint64_t, std::pair<std::int32_t, int>> open;
    const auto& g = mesh.grid();
    for (const auto f : faces) {
        const auto polygon = g.polygon(f);
        const auto n = static_cast<std::int32_t>(polygon.size());
        const auto first = static_cast<std::int32_t>(corner_.size());
        const Vec3 middle = mesh.place(mesh.ofFace(f));
        for (std::int32_t k = 0; k < n; ++k) {
            const auto a = polygon[std::size_t(k)], b = polygon[std::size_t((k + 1) % n)];
            corner_.push_back({Node(a), Node(b), mesh.ofFace(f)});
            // Beyond the sides that face a and b lie the next and the one before about the face's middle.
            across_.push_back({first + (k + 1) % n, first + (k + n - 1) % n, -1});
            const Vec3 S =
                0.5 * (g.points[std::size_t(b)] - g.points[std::size_t(a)]).cross(middle - g.points[std::size_t(a)]);
            const double area = S.norm();
            area_ += area;
            size_.push_back(std::sqrt(area));
            // Faces of walls point out of the air.
            normal_.push_back(area > 0.0 ? Vec3(-S / area) : Vec3::Zero().eval());
            const auto key = (std::uint64_t(std::min(a, b)) << 32) | std::uint64_t(std::uint32_t(std::max(a, b)));
            const auto [other, isNew] = open.try_emplace(key, first + k, 2);
            if (isNew) continue;
            across_[std::size_t(other->second.first)][2] = first + k;
            across_.back()[2] = other->second.first;
        }
    }
}

namespace {
constexpr double kSharp = 0.5;     ///< cosine between the normals on both sides of an edge that lines do not pass
constexpr int kMostSteps = 20000;  ///< of a line, each way
constexpr int kLook = 60;          ///< steps after which a line must have come on
constexpr int kMostSlides = 25;    ///< along edges that the shear meets from both sides

/// Small cubes of space, each told apart by which way the wall in it looks, that lines have passed.
class Passed {
  public:
    explicit Passed(double size) : size_(size) {}
    std::uint64_t keyOf(const Vec3& x, const Vec3& normal) const {
        int axis = 0;
        normal.cwiseAbs().maxCoeff(&axis);
        std::uint64_t key = std::uint64_t(2 * axis + (normal[axis] > 0.0));
        for (int k = 0; k < 3; ++k)
            key = (key << 20) | (std::uint64_t(std::llround(std::floor(x[k] / size_)) + (1 << 19)) & 0xfffff);
        return key;
    }
    bool anyone(std::uint64_t key) const { return by_.contains(key); }
    /// Whether a line may go there: no other has, nor has it itself some cubes ago, as one that goes round does.
    bool take(std::uint64_t key, int line) {
        const auto [it, isNew] = by_.try_emplace(key, line, number_);
        if (isNew) ++number_;
        return it->second.first == line && number_ - it->second.second < kBack;
    }

  private:
    static constexpr int kBack = 4;  ///< cubes; fewer are to and fro across their sides
    double size_;
    int number_ = 0;
    std::unordered_map<std::uint64_t, std::pair<int, int>> by_;  ///< line, and the cube's number
};

/// One way along the shear.
class Walk {
  public:
    Walk(const WallSkin& skin, const std::vector<Vec3>& shear, Passed& passed, double sense)
        : skin_(skin), shear_(shear), passed_(passed), sense_(sense) {}

    void go(WallSpot spot, int line, WallLine& out) {
        int slides = 0;
        Vec3 markedAt = skin_.place(spot);
        std::int32_t slideAlong = -1;  // the corner whose side the line keeps to
        for (int n = 0; n < kMostSteps; ++n) {
            const auto rate = rateAt(spot, slideAlong);
            if (!rate) return;
            const double step = 0.3 * skin_.sizeOf(spot.triangle);
            WallSpot half = spot;
            for (std::size_t k = 0; k < 3; ++k) half.weight[k] += 0.5 * step * (*rate)[k];
            const auto middle = rateAt(half, slideAlong);
            if (!middle) return;
            double reach = step;
            int side = -1;
            for (int k = 0; k < 3; ++k) {
                const double falls = -(*middle)[k];
                if (falls <= 0.0 || k == slideAlong) continue;
                const double there = std::max(spot.weight[std::size_t(k)], 0.0) / falls;
                if (there < reach) reach = there, side = k;
            }
            for (std::size_t k = 0; k < 3; ++k) spot.weight[k] += reach * (*middle)[k];
            if (slideAlong >= 0) spot.weight[std::size_t(slideAlong)] = 0.0;
            if (side >= 0) spot.weight[std::size_t(side)] = 0.0;
            const Vec3 x = skin_.place(spot);
            const auto key = passed_.keyOf(x, skin_.normal(spot.triangle));
            if (!passed_.take(key, line)) return;
            if (reach > 1e-9 * step) {
                out.spots.push_back(spot);
                out.places.push_back(x);
            }
            // About a place where the shear vanishes it would go to and fro.
            if (n % kLook == kLook - 1) {
                if ((x - markedAt).norm() < 3.0 * skin_.sizeOf(spot.triangle)) return;
                markedAt = x;
            }
            const bool wasSliding = slideAlong >= 0;
            slideAlong = -1;
            if (side < 0) {
                if (wasSliding && ++slides > kMostSlides) return;
                continue;
            }
            const auto next = passOver(spot, side);
            if (next.triangle < 0) return;
            spot = next;
            // Where the shear beyond leads back, the line follows the edge.
            int back = 0;
            for (int k = 1; k < 3; ++k)
                if (spot.weight[std::size_t(k)] < spot.weight[std::size_t(back)]) back = k;
            if (const auto beyond = rateAt(spot, -1); beyond && (*beyond)[back] < 0.0) {
                slideAlong = back;
                if (++slides > kMostSlides) return;
            } else if (!wasSliding) {
                slides = 0;
            }
        }
    }

  private:
    /// Weights of the corners a metre of the way; nothing where there is no shear.
    /// @param along  the corner whose side the way keeps to; -1: free
    std::optional<Vec3> rateAt(const WallSpot& s, int along) const {
        const auto& c = skin_.corners(s.triangle);
        const Vec3 n = skin_.normal(s.triangle);
        std::array<Vec3, 3> p;
        for (std::size_t k = 0; k < 3; ++k) p[k] = skin_.mesh().place(c[k]);
        Vec3 u = skin_.valueAt(s, shear_);
        const double all = u.norm();
        u -= u.dot(n) * n;
        if (along >= 0) {
            const Vec3 e = (p[std::size_t(along + 2) % 3] - p[std::size_t(along + 1) % 3]).normalized();
            u = u.dot(e) * e;
        }
        const double size = u.norm();
        if (!(size > 1e-3 * all) || !(size > 1e-30) || !std::isfinite(size)) return std::nullopt;
        u *= sense_ / size;
        const double twice = (p[1] - p[0]).cross(p[2] - p[0]).norm();
        if (!(twice > 0.0)) return std::nullopt;
        // Normals point out of the model, corners turn the other way about: the gradients of the weights lead inwards.
        Vec3 rate;
        for (int k = 0; k < 3; ++k) {
            const Vec3 e = p[std::size_t(k + 2) % 3] - p[std::size_t(k + 1) % 3];
            rate[k] = e.cross(n).dot(u) / twice;
        }
        return rate;
    }

    /// The same place in the triangle beyond a side; none where walls end or bend sharply.
    WallSpot passOver(const WallSpot& s, int side) const {
        WallSpot out;
        const auto next = skin_.across(s.triangle, side);
        if (next < 0 || skin_.normal(s.triangle).dot(skin_.normal(next)) < kSharp) return out;
        out.triangle = next;
        const auto &from = skin_.corners(s.triangle), &to = skin_.corners(next);
        for (std::size_t k = 0; k < 3; ++k)
            for (std::size_t j = 0; j < 3; ++j)
                if (to[k] == from[j] && static_cast<int>(j) != side) out.weight[k] = s.weight[j];
        return out;
    }

    const WallSkin& skin_;
    const std::vector<Vec3>& shear_;
    Passed& passed_;
    double sense_;
};
}  // namespace

std::vector<WallLine> limitingLines(const WallSkin& skin, const std::vector<Vec3>& shearAtPoints, int count,
                                    const std::function<bool()>& wanted) {
    std::vector<WallLine> out;
    if (skin.triangles() == 0 || count < 1) return out;
    Passed passed(std::sqrt(skin.area() / count));
    // Every so many triangles one is tried, in steps that come to all of them in the end.
    const auto all = static_cast<std::int64_t>(skin.triangles());
    auto step = std::max<std::int64_t>(1, std::llround(0.6180339887 * static_cast<double>(all)));
    while (std::gcd(step, all) != 1) ++step;
    std::int64_t at = 0;
    const auto tries = std::min<std::int64_t>(all, 40LL * count);
    for (std::int64_t n = 0; n < tries; ++n, at = (at + step) % all) {
        if (wanted && !wanted()) break;
        const WallSpot start{static_cast<std::int32_t>(at), {1.0 / 3.0, 1.0 / 3.0, 1.0 / 3.0}};
        const Vec3 x = skin.place(start);
        const auto key = passed.keyOf(x, skin.normal(start.triangle));
        if (passed.anyone(key)) continue;
        const int line = static_cast<int>(n);
        WallLine one;
        Walk(skin, shearAtPoints, passed, -1.0).go(start, line, one);
        std::reverse(one.spots.begin(), one.spots.end());
        std::reverse(one.places.begin(), one.places.end());
        one.spots.push_back(start);
        one.places.push_back(x);
        Walk(skin, shearAtPoints, passed, 1.0).go(start, line, one);
        if (one.places.size() > 1) out.push_back(std::move(one));
    }
    return out;
}

}  // namespace cvane::field
