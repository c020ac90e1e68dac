#include <fmt/format.h>

#include "base/errors.h"
#include "base/text.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/model_stage.h"
#include "command/edit.h"
#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {

bool removes(const json& a) {
    return a.value("remove", false);
}

void need(const json& a, bool given, const char* what) {
    if (!given && !removes(a))
        throw base::InputError(fmt::format("{} is missing.", what), base::printable(textIn(a, "name")),
                               "Add it, or take the device out with --remove.");
}

// A device is named once; giving it again replaces it.
template <class Item>
void put(const json& a, std::vector<Item>& list, std::string Item::*nameOf, Item value) {
    const auto name = textIn(a, "name");
    if (name != base::printable(name))
        throw base::InputError("holds signs that cannot be shown.", base::printable(name), "Choose another name.");
    const auto gone = std::erase_if(list, [&](const Item& x) { return x.*nameOf == name; });
    if (removes(a) && gone == 0)
        throw base::InputError("there is none of that name.", name, "The command \"check\" lists what there is.");
    if (!removes(a)) list.push_back(std::move(value));
}

Outcome wheel(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        const auto name = textIn(a, "name");
        if (!removes(a)) partNamed(c.settings, name);
        campaign::Wheel w;
        w.part = name;
        w.rolling = !a.contains("rpm");
        w.rpm = a.value("rpm", 0.0);
        if (a.contains("axis")) w.axis.emplace(vectorIn(a, "axis", Vec3::UnitY()));
        if (a.contains("centre")) w.centre.emplace(vectorIn(a, "centre", Vec3::Zero()));
        put(a, c.settings.devices.wheels, &campaign::Wheel::part, w);
        if (!removes(a)) {
            const auto placed = campaign::placedModel(c);
            campaign::motionOf(w, placed, campaign::tunnelFor(c.settings, placed), 1.0);
        }
    });
    return {};
}

Outcome rough(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        const auto name = textIn(a, "name");
        if (!removes(a)) partNamed(c.settings, name);
        need(a, a.value("sand-grain", 0.0) > 0.0, "--sand-grain");
        put(a, c.settings.devices.roughParts, &flow::RoughPart::part, {name, a.value("sand-grain", 0.0)});
    });
    return {};
}

Outcome disc(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        const double outer = a.value("radius", 0.0), inner = a.value("hub", 0.0), thrust = a.value("thrust", 0.0),
                     power = a.value("power", 0.0);
        need(a, a.contains("centre"), "--centre");
        need(a, outer > inner && inner >= 0.0, "--radius above --hub");
        need(a, thrust != 0.0 || power > 0.0, "--thrust or --power");
        put(a, c.settings.devices.discs, &flow::Disc::name,
            {textIn(a, "name"), vectorIn(a, "centre", Vec3::Zero()), vectorIn(a, "axis", Vec3::UnitX()), inner, outer,
             thrust, power, a.value("rpm", 0.0)});
    });
    return {};
}

Outcome porous(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        const double linear = a.value("linear", 0.0), quadratic = a.value("quadratic", 0.0);
        need(a, a.contains("from") && a.contains("to"), "--from or --to");
        need(a, linear > 0.0 || quadratic > 0.0, "--linear or --quadratic");
        put(a, c.settings.devices.blocks, &flow::PorousBlock::name,
            {textIn(a, "name"), vectorIn(a, "from", Vec3::Zero()), vectorIn(a, "to", Vec3::Zero()),
             a.value("axis", std::string("x"))[0] - 'x', linear, quadratic, a.value("across", 10.0)});
    });
    return {};
}

std::vector<Argument> device(const char* what, std::vector<Argument> own) {
    own.insert(own.begin(), {{"name", Text, what, true, true}, {"remove", Flag, "take it out again"}});
    return editArguments(std::move(own));
}
}  // namespace

std::vector<Action> deviceActions() {
    return {
        {"wheel", "let a part turn about its axle",
         device("name of the part",
                {{"rpm", Number, "revolutions a minute, forwards above 0; without it the wheel rolls with the ground"},
                 {"axis", Numbers, "direction of the axle, when it shall not be found from the shape", false, false, 3},
                 {"centre", Numbers, "a point on the axle [m]", false, false, 3}}),
         wheel},
        {"rough", "give a part a rough surface",
         device("name of the part", {{"sand-grain", Number, "height of equivalent sand grains [m]"}}), rough},
        {"disc", "put a propeller or fan into the air, as a disc that pushes",
         device("name of the disc",
                {{"centre", Numbers, "[m]", false, false, 3},
                 {"axis", Numbers, "way in which the air is pushed; 1 0 0 without it", false, false, 3},
                 {"radius", Number, "[m]"},
                 {"hub", Number, "inner radius [m]"},
                 {"thrust", Number, "[N]"},
                 {"power", Number, "[W], in place of the thrust"},
                 {"rpm", Number, "lets the slipstream turn, right-handed about the axis"}}),
         disc},
        {"porous", "put a radiator core into the air, as a box that resists",
         device("name of the block", {{"from", Numbers, "corner [m]", false, false, 3},
                                      {"to", Numbers, "opposite corner [m]", false, false, 3},
                                      {"axis", Text, "way through", false, false, 0, {"x", "y", "z"}},
                                      {"linear", Number, "resistance to slow flow [1/m2]"},
                                      {"quadratic", Number, "resistance to fast flow [1/m]"},
                                      {"across", Number, "resistance across the way through over that along it"}}),
         porous}};
}

}  // namespace cvane::command
