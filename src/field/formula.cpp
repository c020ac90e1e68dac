#include "field/formula.h"

#include <fmt/format.h>
#include <muParser.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "base/errors.h"
#include "field/flow_field.h"

namespace cvane::field {
namespace {
constexpr std::array kOfTheWind{"V_wind", "q_wind", "rho", "nu", "alpha", "beta"};
constexpr const char* kTodo = "Names are those of quantities, x, y, z, V_wind, q_wind, rho, nu, alpha and beta.";

/// A formula that has been read, with the places that its names are taken from.
class Formula {
  public:
    Formula(const FlowField& flow, const std::string& text) : flow_(flow), text_(text) {
        const auto& w = flow.wind();
        const std::array values{w.speed, w.dynamicPressure(), w.air.density, w.air.kinematicViscosity(), w.alpha,
                                w.beta};
        static_assert(values.size() == kOfTheWind.size());
        try {
            parser_.SetExpr(text);
            for (std::size_t k = 0; k < values.size(); ++k) parser_.DefineConst(kOfTheWind[k], values[k]);
            // The map's numbers stay where they are.
            for (const auto& q : flow.quantities()) parser_.DefineVar(q.id, &numbers_[q.id]);
            for (const char* axis : {"x", "y", "z"}) parser_.DefineVar(axis, &numbers_[axis]);
            parser_.Eval();
            for (const auto& [name, where] : parser_.GetUsedVar()) used_.push_back(name);
        } catch (const mu::Parser::exception_type& e) {
            throw base::InputError(fmt::format("cannot be read: {}.", e.GetMsg()), text, kTodo);
        }
    }
    std::vector<double> values() {
        std::vector<std::pair<double*, const std::vector<double>*>> from;
        std::vector<std::pair<double*, int>> places;
        for (const auto& name : used_) {
            if (name.size() == 1 && name[0] >= 'x' && name[0] <= 'z')
                places.emplace_back(&numbers_[name], name[0] - 'x');
            else
                from.emplace_back(&numbers_[name], &flow_.inCells(name));
        }
        std::vector<double> out(static_cast<std::size_t>(flow_.mesh().cells()));
        for (std::size_t c = 0; c < out.size(); ++c) {
            for (const auto& [to, all] : from) *to = (*all)[c];
            for (const auto& [to, axis] : places) *to = flow_.mesh().geometry().cellCentre[c][axis];
            try {
                out[c] = parser_.Eval();
            } catch (const mu::Parser::exception_type& e) {
                throw base::InputError(fmt::format("cannot be worked out: {}.", e.GetMsg()), text_, kTodo);
            }
            if (!std::isfinite(out[c])) {
                const Vec3& x = flow_.mesh().geometry().cellCentre[c];
                throw base::InputError(
                    fmt::format("has no finite value at ({:.4g} {:.4g} {:.4g}) m.", x.x(), x.y(), x.z()), text_,
                    "Keep it from dividing by zero, for instance with max(.., 1e-9).");
            }
        }
        return out;
    }

  private:
    const FlowField& flow_;
    std::string text_;
    mu::Parser parser_;
    std::map<std::string, double> numbers_;
    std::vector<std::string> used_;
};
}  // namespace

std::vector<double> evaluateFormula(const FlowField& flow, const std::string& text) {
    // A single name that there is not is a slip of the pen rather than a formula.
    const bool isName = !text.empty() && std::all_of(text.begin(), text.end(), [](unsigned char c) {
        return std::isalnum(c) || c == '_';
    }) && !std::isdigit(static_cast<unsigned char>(text[0]));
    if (isName && text.size() > 1 && std::find(kOfTheWind.begin(), kOfTheWind.end(), text) == kOfTheWind.end())
        flow.quantity(text);
    return Formula(flow, text).values();
}

std::string troubleWithFormula(const FlowField& flow, const std::string& text) {
    try {
        Formula(flow, text);
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}

}  // namespace cvane::field
