#include "desk/field_loader.h"

#include <QtConcurrent>

namespace cvane::desk {

FieldLoader::FieldLoader(Document& d, bool cells) : document_(d), cells_(cells) {
    connect(&job_, &QFutureWatcherBase::finished, this, [this] {
        fields_ = job_.result();
        key_ = reading_;
        emit changed();
    });
    connect(&document_, &Document::reportsChanged, this, [this] {
        if (keyWanted() != key_ && !job_.isRunning()) emit changed();
    });
}

std::string FieldLoader::keyWanted() const {
    const auto* r = document_.selectedReport();
    if (!r || !r->result || r->result->verdict == flow::Verdict::Diverged) return {};
    return campaign::runFolder(document_.campaign(), r->point).string() + std::to_string(r->result->seconds);
}

void FieldLoader::wanted() {
    const std::string key = keyWanted();
    if (key.empty()) {
        fields_.reset();
        key_.clear();
        return;
    }
    const auto folder = campaign::runFolder(document_.campaign(), document_.selectedReport()->point);
    // Another point may have been selected while one was read; its arrival asks again.
    if (key == key_ || job_.isRunning()) return;
    fields_.reset();
    reading_ = key;
    job_.setFuture(QtConcurrent::run(readFields, folder, campaign::gridFile(document_.campaign()), document_.grid(), document_.geometry(), cells_));
}

QString FieldLoader::excuse() const {
    if (job_.isRunning()) return tr("Reading the flow\u2026");
    return fields_ && !fields_->error.isEmpty() ? fields_->error : tr("The selected point has no result yet.");
}

}  // namespace cvane::desk
