#include <gtest/gtest.h>
#include <signal.h>
#include <sys/resource.h>
#include <sys/stat.h>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "base/number_list.h"
#include "base/time_left.h"
#include "base/units.h"
#include "folder.h"

using namespace cvane;

TEST(ReplaceFile, LeavesTheOldContentWhenTheDiskIsFull) {
    const test::Folder folder;
    base::replaceFile(folder / "a", "old");
    // A limit on file size makes write fail half-way, as a full disk does.
    ::signal(SIGXFSZ, SIG_IGN);
    rlimit before{};
    getrlimit(RLIMIT_FSIZE, &before);
    const rlimit small{1000, before.rlim_max};
    setrlimit(RLIMIT_FSIZE, &small);
    EXPECT_THROW(base::replaceFile(folder / "a", std::string(5000, 'x')), base::InputError);
    setrlimit(RLIMIT_FSIZE, &before);
    EXPECT_EQ(base::readFile(folder / "a"), "old");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1);  // no half file is left
}

TEST(ReplaceFile, SaysSoWhenTheFolderIsGone) {
    const test::Folder folder;
    EXPECT_THROW(base::replaceFile(folder / "no" / "a", "x"), base::InputError);
}

TEST(ReadJson, NamesTheLineThatIsDamaged) {
    const test::Folder folder;
    base::replaceFile(folder / "a.json", "{\n\"a\": 1,\n\"b\": }\n");
    try {
        base::readJson(folder / "a.json");
        FAIL();
    } catch (const base::InputError& e) {
        EXPECT_NE(std::string(e.what()).find("line 3"), std::string::npos) << e.what();
    }
}

TEST(Units, HaveTheirDefinedSizes) {
    EXPECT_DOUBLE_EQ(base::unitNamed(base::lengthUnits(), "in").inSI, 0.0254);
    EXPECT_NEAR(base::unitNamed(base::forceUnits(), "lbf").inSI, 4.4482216152605, 1e-12);  // international pound x g
    EXPECT_NEAR(base::unitNamed(base::speedUnits(), "kt").inSI, 1852.0 / 3600.0, 1e-15);
    EXPECT_THROW(base::unitNamed(base::lengthUnits(), "furlong"), base::InputError);
}

TEST(DetachedProcess, IsKnownByItsIdAndStart) {
    const test::Folder folder;
    const auto pid = base::startDetached({"sleep", "30"}, folder / "out", {});
    const auto start = base::processStart(pid);
    EXPECT_TRUE(base::isAlive(pid, start));
    EXPECT_FALSE(base::isAlive(pid, start + 1));
    ::kill(pid, SIGKILL);
    for (int i = 0; i < 100 && base::isAlive(pid, start); ++i) usleep(10000);
    EXPECT_FALSE(base::isAlive(pid, start));
    EXPECT_THROW(base::startDetached({"no-such-program-here"}, folder / "out", {}), base::InputError);
}

TEST(TimeLeft, FollowsFromTheShareDoneAndIsSilentAtFirst) {
    EXPECT_EQ(base::TimeLeft::words(0.25, 10.0), "about 30 s left");
    EXPECT_EQ(base::TimeLeft::words(0.5, 600.0), "about 10 min left");
    EXPECT_EQ(base::TimeLeft::words(0.2, 3600.0), "about 4.0 h left");
    EXPECT_EQ(base::TimeLeft::words(0.05, 10.0), "");  // too early to say
    EXPECT_EQ(base::TimeLeft::words(0.5, 0.1), "");
    EXPECT_EQ(base::TimeLeft::words(1.0, 10.0), "");
    EXPECT_EQ(base::TimeLeft::words(std::nan(""), 10.0), "");
}

TEST(NumberList, IsNumbersAndRangesWithBothEnds) {
    using base::numbersIn;
    EXPECT_EQ(numbersIn("2, 4:10:2", "alphas"), (std::vector<double>{2.0, 4.0, 6.0, 8.0, 10.0}));
    EXPECT_EQ(numbersIn("-2:2:2;5", "alphas"), (std::vector<double>{-2.0, 0.0, 2.0, 5.0}));
    EXPECT_EQ(numbersIn(" 1 2  3 ", "speeds"), (std::vector<double>{1.0, 2.0, 3.0}));
    EXPECT_EQ(numbersIn("3:5", "alphas"), (std::vector<double>{3.0, 4.0, 5.0}));
    EXPECT_EQ(numbersIn("4: -4: -4", "alphas"), (std::vector<double>{4.0, 0.0, -4.0}));
    EXPECT_EQ(numbersIn("0:1:0.1", "alphas").size(), 11u);  // ten steps of what is no binary fraction
    EXPECT_EQ(base::numberIn("1e3", "budget"), 1000.0);
}

TEST(NumberList, RefusesWhatItCannotReadAndSaysWhere) {
    for (const char* bad : {"", " ", ",;", "a", "1,b", "nan", "inf", "1e999", "0:5:0", "0:5:-1", "5:0", "1:1e9:1e-3",
                            "1:", ":1", "1:2:3:4", "1.2.3"}) {
        try {
            base::numbersIn(bad, "the angles");
            ADD_FAILURE() << bad;
        } catch (const base::InputError& e) {
            EXPECT_NE(std::string(e.what()).find("the angles"), std::string::npos) << bad;
        }
    }
    EXPECT_THROW(base::numbersIn("1:2", "alpha", base::Step::Asked), base::InputError);
    EXPECT_THROW(base::numberIn("1,2", "budget"), base::InputError);
    std::string many;
    for (int i = 0; i < 2001; ++i) many += "1,";
    EXPECT_THROW(base::numbersIn(many, "alphas"), base::InputError);
}
