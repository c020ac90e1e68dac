#include "campaign/steps/solve_point.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <fstream>
#include <mutex>
#include <sstream>
#include <thread>

#include "base/files.h"
#include "campaign/steps/rank_files.h"
#include "campaign/steps/solve_coarse.h"
#include "campaign/steps/solve_result.h"
#include "campaign/steps/solver_words.h"
#include "campaign/store/run_claim.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_grid.h"
#include "flow/course.h"
#include "flow/marks.h"
#include "flow/solver.h"
#include "grid/memory.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

namespace {
constexpr double kSavingShare = 0.03;  ///< of the time that checkpoints may take
constexpr double kWordSeconds = 0.2;   ///< between two lines of the output

double since(Clock::time_point t) {
    return std::chrono::duration<double>(Clock::now() - t).count();
}

// The residuals of the turbulence model's variables by what they are; a model of one variable, or none, has no second.
std::vector<std::string> residualNames(flow::Model model) {
    switch (model) {
        case flow::Model::Sst:
            return {"res_k", "res_omega"};
        case flow::Model::KEpsilon:
            return {"res_k", "res_epsilon"};
        case flow::Model::SpalartAllmaras:
            return {"res_nu_tilde"};
        case flow::Model::Laminar:
        case flow::Model::Inviscid:
            return {};
    }
    return {};
}

/// Says every few seconds that this run lives, also through iterations that take minutes.
class Heart {
  public:
    explicit Heart(const fs::path& folder)
        : thread_([this, folder] {
              std::unique_lock lock(mutex_);
              do {
                  beat(folder);
              } while (!end_.wait_for(lock, std::chrono::seconds(kHeartbeatSeconds), [this] { return over_; }));
          }) {}
    ~Heart() {
        {
            const std::lock_guard lock(mutex_);
            over_ = true;
        }
        end_.notify_all();
        thread_.join();
    }
    Heart(const Heart&) = delete;
    Heart& operator=(const Heart&) = delete;

  private:
    bool over_ = false;
    std::mutex mutex_;
    std::condition_variable end_;
    std::thread thread_;
};

/// monitor.csv: one line an iteration, on rank 0.
class MonitorFile {
  public:
    MonitorFile(const fs::path& folder, flow::Model model)
        : file_(folder / "monitor.csv"), residuals_(residualNames(model)) {}

    /// Opens it behind the first `kept` iterations; lines of those that are done again are dropped. Collective.
    void open(std::size_t kept, const flow::Ranks& ranks) {
        out_.close();
        together(ranks, [&] {
            std::string text = "iteration,seconds,res_momentum,res_mass," +
                               (residuals_.empty() ? "" : fmt::format("{},", fmt::join(residuals_, ","))) +
                               "CL,CD,CY,Cl,Cm,Cn,mass_imbalance,y_plus_low,y_plus_high,memory_GB,time_step_s\n";
            if (kept > 0 && fs::exists(file_)) {
                std::istringstream old(base::readFile(file_));
                std::string line;
                std::getline(old, line);
                const auto words = [](const std::string& of) { return std::count(of.begin(), of.end(), ','); };
                const auto wanted = words(text);
                // Runs of before lack the last column.
                for (std::size_t i = 0; i < kept && std::getline(old, line); ++i)
                    text += line + (words(line) + 1 == wanted ? ",0\n" : "\n");
            }
            base::replaceFile(file_, text);
        });
        if (ranks.rank() == 0) out_.open(file_, std::ios::app);
    }

    void write(std::size_t iteration, double seconds, const flow::Residuals& r, const air::Coefficients& c,
               double massImbalance, std::pair<double, double> yPlus, double memory_GB, double timeStep) {
        std::string turbulence;
        for (std::size_t i = 0; i < residuals_.size(); ++i)
            turbulence += fmt::format("{:.4e},", i == 0 ? r.first : r.second);
        out_ << fmt::format(
            "{},{:.2f},{:.4e},{:.4e},{}{:.8g},{:.8g},{:.8g},{:.8g},{:.8g},{:.8g},{:.3e},{:.3g},{:.3g},{:.3f},{:.4g}\n",
            iteration, seconds, r.momentum, r.mass, turbulence, c.CL, c.CD, c.CY, c.Cl, c.Cm, c.Cn, massImbalance,
            yPlus.first, yPlus.second, memory_GB, timeStep);
    }
    void flush() { out_.flush(); }

  private:
    fs::path file_;
    std::vector<std::string> residuals_;
    std::ofstream out_;
};

/// One run from its order to its result.
class PointSolver {
  public:
    PointSolver(const fs::path& folder, const flow::Ranks& ranks)
        : folder_(folder),
          ranks_(ranks),
          root_(ranks.rank() == 0),
          order_(readOrder(folder)),
          monitor_(folder, order_.flowCase.settings.model),
          live_(order_, folder_, ranks_, "") {}

    void run() {
        coarse_ = coarseBefore(folder_, order_.key, ranks_);
        std::optional<Coarse> start;
        // The coarse flow comes first, unless this run has got beyond it.
        if (!order_.coarseGrid.empty() && !coarse_ && !isThere(folder_ / "checkpoint.bin", ranks_)) {
            start = solveCoarse(order_, folder_, ranks_);
            if (start && start->stopped) {
                tell({{"stopped", 0}});
                return;
            }
            if (start) coarse_ = start->result;
        }
        if (order_.weightsOnly) {
            writeWeights(start);
            return;
        }
        // Rank 0 reads the grid, hands out the pieces and lets it go; it reads it again to write the fields.
        solver_ = std::make_unique<flow::Solver>(pieceOfGrid(order_.grid, ranks_), order_.flowCase, ranks_);
        course_ = begin(start);
        start.reset();
        monitor_.open(course_->history().size(), ranks_);
        began_ = lastCheckpoint_ = Clock::now();
        firstIteration_ = course_->history().size();
        bool stop = false;
        while (course_->verdict() == flow::Verdict::Running && !stop) stop = iterate();
        monitor_.flush();
        if (stop && course_->verdict() == flow::Verdict::Running) {
            save();
            course_->showMean();
            live_.keep(*solver_, *course_, seconds(), coarse_, [] {});
            tell({{"stopped", course_->history().size()}});
            return;
        }
        finish();
    }

  private:
    void writeWeights(const std::optional<Coarse>& start) const {
        if (!start) return;  // it blew up, or was found again without its flow; who waits says so
        const auto whole = flow::gatheredAtRoot(start->flow.to, ranks_);
        together(ranks_, [&] {
            const auto g = readGrid(order_.coarseGrid);
            const auto weights = flow::refinementWeights(whole, g, grid::geometryOf(g), order_.flowCase.wind.speed);
            base::replaceFile(folder_ / kWeightsFile, std::string(reinterpret_cast<const char*>(weights.data()),
                                                                  weights.size() * sizeof(double)));
        });
    }

    void tell(const nlohmann::json& line) const {
        if (root_) say(line);
    }

    // Where the flow starts: its checkpoint, a settled neighbour, the coarse grid, or from potential flow.
    std::unique_ptr<flow::Course> begin(const std::optional<Coarse>& start) {
        const auto saved = readCheckpoint(folder_ / "checkpoint.bin", ranks_);
        const bool resumes = saved && saved->key == order_.key;
        if (resumes)
            secondsBefore_ = saved->seconds;
        else if (!beginsFromNeighbour(start)) {
            if (start)
                solver_->start().fromCoarser(start->flow.to);
            else
                solver_->start().fromPotentialFlow();
        }
        auto course = std::make_unique<flow::Course>(*solver_, order_.flowCase.settings);
        if (resumes) {
            course->resume(*saved);
            tell({{"resumed_at", course->history().size()}});
        }
        return course;
    }

    bool beginsFromNeighbour(const std::optional<Coarse>& start) {
        if (!startsFromNeighbours(*solver_, order_, "checkpoint.bin", ranks_)) return false;
        followCoarser(*solver_, order_, start);
        return true;
    }

    double seconds() const { return secondsBefore_ + since(began_); }

    double secondsLeft() const {
        const auto& history = course_->history();
        const double each = since(began_) / static_cast<double>(std::max<std::size_t>(
                                                1, history.size() - std::min(firstIteration_, history.size())));
        return each * static_cast<double>(course_->watch().iterationsLeft(history));
    }

    /// Collective.
    void save() {
        const auto began = Clock::now();
        agreed(ranks_, [&] { course_->save(folder_ / "checkpoint.bin", order_.key, seconds()); });
        lastCheckpoint_ = Clock::now();
        checkpointCost_ = since(began);
    }

    /// The state, and what there is to be read until the run comes to its end; the flow is read from the state.
    void keepProvisional() {
        live_.keep(*solver_, *course_, seconds(), coarse_, [this] { save(); });
    }

    /// @return whether the run shall stop
    bool iterate() {
        const auto& settings = order_.flowCase.settings;
        const auto [r, notice, wentBack] = course_->iterate();
        const auto& history = course_->history();
        if (!notice.empty()) tell({{"notice", notice}});
        if (wentBack) {
            monitor_.open(history.size(), ranks_);
            return false;
        }
        const auto yPlus = solver_->read().yPlusRange();
        const double imbalance = solver_->read().massImbalance(),
                     memory = ranks_.sum(1e-9 * static_cast<double>(grid::peakMemory()));
        // Decisions that hang on clocks and files are rank 0's; the others hear of them.
        bool checkpoint = false, asked = false, wanted = false, looks = false;
        if (root_) {
            const auto& c = history.back();
            monitor_.write(history.size(), seconds(), r, c, imbalance, yPlus, memory, solver_->timeStep());
            if (since(lastWord_) > kWordSeconds || course_->verdict() != flow::Verdict::Running) {
                monitor_.flush();
                say({{"iteration", history.size()},
                     {"most", settings.mostIterations},
                     {"CL", c.CL},
                     {"CD", c.CD},
                     {"residual", r.worst()},
                     {"seconds", seconds()},
                     {"time_step_s", solver_->timeStep()},
                     {"left_s", secondsLeft()}});
                lastWord_ = Clock::now();
                asked = fs::exists(folder_ / "stop");
                looks = true;
                std::error_code ec;
                wanted = fs::remove(folder_ / "save", ec);
            }
            // The first values are wanted soon, and a run that is killed early should have some.
            checkpoint = wanted || live_.due() ||
                         since(lastCheckpoint_) > std::max(settings.checkpointSeconds, checkpointCost_ / kSavingShare);
        }
        double flags[2] = {checkpoint ? 1.0 : 0.0, asked ? 1.0 : 0.0};
        ranks_.sum(std::span<double>(flags, 2));
        takeNewlyAsked(looks);
        const bool stop = flags[1] > 0.5;
        if (course_->verdict() == flow::Verdict::Running && flags[0] > 0.5 && !stop) keepProvisional();
        if (wanted) say({{"saved", history.size()}});
        return stop;
    }

    /// Tolerances and iterations that have been changed while it runs. Collective. @param looks  at rank 0: now
    void takeNewlyAsked(bool looks) {
        auto& settings = order_.flowCase.settings;
        double news[5] = {};
        if (looks)
            if (const auto asked = newlyAsked(folder_)) {
                const double now[] = {1.0, asked->toleranceCD, asked->toleranceCL,
                                      static_cast<double>(asked->mostIterations),
                                      static_cast<double>(asked->leastIterations)};
                std::copy(std::begin(now), std::end(now), std::begin(news));
            }
        ranks_.sum(std::span<double>(news, std::size(news)));
        if (news[0] < 0.5) return;
        settings.toleranceCD = news[1];
        settings.toleranceCL = news[2];
        settings.mostIterations = static_cast<int>(news[3]);
        settings.leastIterations = static_cast<int>(news[4]);
        course_->judgeAnew();
        tell({{"notice", fmt::format("From iteration {} on it is judged by {:.3g} of CD and {:.3g} of CL, within {} "
                                     "iterations.",
                                     course_->history().size(), news[1], news[2], settings.mostIterations)}});
    }

    void finish() {
        const flow::Verdict verdict = course_->verdict();
        course_->finish([this] { save(); });
        const auto& history = course_->history();
        readout::Result result =
            resultOf(order_, *solver_, history, course_->averagedFrom(), verdict, seconds(), ranks_);
        result.coarse = coarse_;
        if (verdict == flow::Verdict::Diverged)
            result.remark = fmt::format(
                "Diverged at iteration {}, also with more cautious settings. Look at the grid's worst cells, or lower "
                "the relaxation.",
                history.size());
        else {
            course_.reset();  // it looks at the solver, whose memory makes room for the whole grid
            writeFields(order_, std::move(solver_), folder_, ranks_, result);
        }
        together(ranks_, [&] {
            base::replaceJson(folder_ / "result.json", readout::toJson(result));
            std::error_code ec;
            for (const char* grid : {"coarse", "coarsest"}) fs::remove(folder_ / wallFileName(grid), ec);
        });
        tell({{"finished", flow::nameOf(verdict)}});
    }

    const fs::path& folder_;
    const flow::Ranks& ranks_;
    bool root_;
    RunOrder order_;
    MonitorFile monitor_;
    LiveValues live_;
    std::optional<readout::CoarseResult> coarse_;
    std::unique_ptr<flow::Solver> solver_;
    std::unique_ptr<flow::Course> course_;
    double secondsBefore_ = 0.0;
    double checkpointCost_ = 0.0;  ///< of the last one [s]
    std::size_t firstIteration_ = 0;
    Clock::time_point began_ = Clock::now(), lastCheckpoint_ = began_, lastWord_{};
};
}  // namespace

void solvePoint(const fs::path& folder, const flow::Ranks& ranks) {
    std::optional<Heart> heart;
    if (ranks.rank() == 0) heart.emplace(folder);
    PointSolver(folder, ranks).run();
}

}  // namespace cvane::campaign
