#pragma once
#include <QMetaObject>
#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <functional>
#include <memory>

namespace cvane::desk {

/// Work away from the window's thread whose outcome is taken only if nothing else was asked of it since: a late one can
/// never show an older state. Start, cancel and outcome belong to the owner's thread.
template <class Outcome>
class Job {
  public:
    /// Asked by the work now and then: true as long as its outcome is wanted.
    using Wanted = std::function<bool()>;

    Job(QObject& owner, QThreadPool& pool) : owner_(owner), pool_(pool) {}
    ~Job() { forget(); }

    /// @param done  called on the owner's thread unless another start, a cancel or a forget came first
    void start(std::function<Outcome(const Wanted&)> work, std::function<void(Outcome)> done) {
        forget();
        const auto token = token_ = std::make_shared<std::atomic<bool>>(true);
        running_ = true;
        pool_.start([this, token, &owner = owner_, work = std::move(work), done = std::move(done)] {
            auto outcome = std::make_shared<Outcome>(work([token] { return token->load(); }));
            // The owner outlives the pool's work: it waits for it before it goes.
            QMetaObject::invokeMethod(
                &owner,
                [this, token, outcome, done] {
                    if (token != token_) return;  // something else was asked for since
                    running_ = false;
                    token_.reset();
                    done(std::move(*outcome));
                },
                Qt::QueuedConnection);
        });
    }

    /// The work may end early; its outcome still arrives.
    void cancel() {
        if (token_) *token_ = false;
    }
    /// Its outcome does not arrive any more.
    void forget() {
        cancel();
        token_.reset();
        running_ = false;
    }
    /// From start until its outcome has been taken: work that is over but not yet heard of is still running.
    bool running() const { return running_; }

  private:
    QObject& owner_;
    QThreadPool& pool_;
    std::shared_ptr<std::atomic<bool>> token_;
    bool running_ = false;
};

}  // namespace cvane::desk
