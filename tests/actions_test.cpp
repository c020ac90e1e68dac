// Every action of the program with every one of its arguments, as scripts and windows may get them wrong.
#include <gtest/gtest.h>

#include "base/errors.h"
#include "command/action.h"
#include "tests/folder.h"
#include "tests/made_up_run.h"

using namespace cvane;
using command::Argument;
using nlohmann::json;

namespace {
/// A campaign of a ball with few cells, one run that has come to its end, and no grid.
struct Ball {
    test::Folder folder;
    campaign::Campaign campaign = test::ball(folder);
    std::string point;
    Ball() {
        campaign.settings.grid.cellBudget = 3000;
        campaign.settings.schedule.speeds = {10.0};
        campaign.settings.schedule.alphas_deg = {0.0};
        campaign.save();
        const auto p = campaign::pointsOf(campaign.settings).at(0);
        point = p.name();
        test::finished(campaign, p, 0.5);
    }
    /// What makes an action go as far as it can without the argument that is looked at.
    json plausible(const command::Action& a) const {
        json out = json::object();
        for (const auto& x : a.arguments) {
            if (!x.required && x.name != "campaign") continue;
            using enum Argument::Kind;
            const double middle = x.low > -1e299 && x.high < 1e299 ? 0.5 * (x.low + x.high) : std::max(1.0, x.low);
            if (x.name == "campaign")
                out[x.name] = campaign.folder().string();
            else if (x.name == "point" || x.name == "less")
                out[x.name] = point;
            else if (x.name == "points")
                out[x.name] = {point, point};
            else if (x.name == "out")
                out[x.name] = (folder / "out.file").string();
            else if (x.kind == Text)
                out[x.name] = x.oneOf.empty() ? "name" : x.oneOf.front();
            else if (x.kind == Texts)
                out[x.name] = {"flow.least_iterations=50"};
            else if (x.kind == Numbers)
                out[x.name] = std::vector<double>(static_cast<std::size_t>(std::max(1, x.count)), middle);
            else if (x.kind == Flag)
                out[x.name] = true;
            else
                out[x.name] = x.kind == Whole ? std::round(middle) : middle;
        }
        return out;
    }
};

/// What scripts send: other kinds, nothing, too much, names that lead elsewhere, bytes that are no text.
std::vector<json> wrongValues() {
    const double huge = 1e308;
    return {json(nullptr),
            json(true),
            json(-1),
            json(0),
            json(0.5),
            json(huge),
            json(-huge),
            json(4294967297LL),
            json(""),
            json(" "),
            json("\xff\xfe"),
            json("../../etc"),
            json(std::string(5000, 'x')),
            json("1e999"),
            json("a=b=c"),
            json("\x1b[2J"),
            json::array(),
            json::array({""}),
            json::array({"="}),
            json::array({"grid.cell_budget=-4", "nothing"}),
            json::array({huge, huge, huge}),
            json::array({0, 0, 0}),
            json::array({0, 0, 0, 0, 0, 0}),
            json::object()};
}
}  // namespace

TEST(Actions, OfEveryKindRefuseWhatTheyCannotDoInASentence) {
    const Ball b;
    // Files with odd names are written where nobody looks.
    const auto here = std::filesystem::current_path();
    std::filesystem::create_directories(b.folder / "deep" / "down" / "below");
    std::filesystem::current_path(b.folder / "deep" / "down" / "below");
    int done = 0, refused = 0;
    for (const auto& a : command::actions()) {
        // Those that start a solver or a drawing program go through program_tests.
        if (a.name == "run" || a.name == "study" || a.name == "film" || a.name == "report") continue;
        for (const auto& x : a.arguments) {
            if (x.name == "campaign") continue;
            for (const auto& wrong : wrongValues()) {
                auto arguments = b.plausible(a);
                arguments[x.name] = wrong;
                const auto what = a.name + " with " + x.name + " " +
                                  wrong.dump(-1, ' ', false, json::error_handler_t::replace).substr(0, 60);
                try {
                    const auto out = command::perform(a.name, arguments, [](const json&) { return false; });
                    EXPECT_GE(out.code, 0) << what;
                    EXPECT_LE(out.code, 4) << what;
                    EXPECT_NO_THROW((void)out.value.dump()) << what;
                    ++done;
                } catch (const base::InputError& e) {
                    EXPECT_GT(std::string(e.what()).size(), 10u) << what;
                    EXPECT_LT(std::string(e.what()).size(), 2400u) << what << ": " << e.what();
                    EXPECT_EQ(std::string(e.what()).find('\x1b'), std::string::npos) << what;
                    ++refused;
                } catch (const base::Cancelled&) {
                    ++done;
                } catch (const std::exception& e) {
                    ADD_FAILURE() << what << " ended with: " << e.what();
                }
                // Whatever was asked, the campaign can be opened and has what was computed.
                ASSERT_NO_THROW((void)campaign::Campaign::open(b.campaign.folder())) << what;
            }
        }
    }
    std::filesystem::current_path(here);
    EXPECT_GT(refused, done);
    EXPECT_TRUE(std::filesystem::exists(b.campaign.folder() / "runs"));
}

TEST(Actions, WithoutTheirCampaignOrWithUnknownArgumentsSaySo) {
    const test::Folder empty;
    for (const auto& a : command::actions()) {
        for (const auto& x : a.arguments)
            if (x.required) {
                EXPECT_THROW(command::perform(a.name, json::object()), base::InputError) << a.name;
                break;
            }
        EXPECT_THROW(command::perform(a.name, {{"no_such_argument", 1}}), base::InputError) << a.name;
        EXPECT_THROW(command::perform(a.name, json::array()), base::InputError) << a.name;
        EXPECT_FALSE(a.help.empty()) << a.name;
        for (const auto& x : a.arguments) EXPECT_FALSE(x.help.empty()) << a.name << " " << x.name;
    }
    EXPECT_THROW(command::perform("fly", json::object()), base::InputError);
}
