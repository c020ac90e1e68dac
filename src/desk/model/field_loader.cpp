#include "desk/model/field_loader.h"

namespace cvane::desk {

FieldLoader::FieldLoader(Document& d, std::function<const campaign::PointReport*()> which)
    : document_(d), which_(std::move(which)), job_(*this, d.pool()) {
    if (!which_) which_ = [this] { return document_.selectedReport(); };
    document_.when(Change::Values | Change::Selection | Change::Campaign, this, [this] {
        if (const auto key = keyOfFlow(which_()); key != key_ && key != reading_) emit changed();
    });
}

void FieldLoader::wanted() {
    const std::string key = keyOfFlow(which_());
    if (key.empty()) {
        fields_.reset();
        folder_.clear();
        key_.clear();
        reading_.clear();
        job_.forget();
        return;
    }
    if (key == key_ || key == reading_) return;
    // Of a run on its way what was read last stays to be seen until the next is there.
    if (which_()->folder != folder_) {
        fields_.reset();
        key_.clear();
    }
    folder_ = which_()->folder;
    reading_ = key;
    job_.start([folder = which_()->folder, file = document_.gridFile(), grid = document_.grid(),
                geometry = document_.geometry()](const auto&) { return readFields(folder, file, grid, geometry); },
               [this, key](std::shared_ptr<const PointFields> fields) {
                   fields_ = std::move(fields);
                   ++generation_;
                   key_ = key;
                   reading_.clear();
                   emit changed();
               });
}

QString FieldLoader::excuse() const {
    if (job_.running()) return tr("Reading the flow\u2026");
    return fields_ && !fields_->error.isEmpty() ? fields_->error : tr("The selected point has no result yet.");
}

}  // namespace cvane::desk
