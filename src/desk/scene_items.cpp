#include "desk/scene_items.h"

namespace cvane::desk {

SceneItems::SceneItems(vtkRenderer* renderer) : renderer_(renderer) {}

SceneItems::~SceneItems() {
    for (auto& [name, item] : items_) renderer_->RemoveViewProp(item.prop);
}

void SceneItems::begin() {
    for (auto& [name, item] : items_) item.named = false;
}

vtkProp* SceneItems::keep(const std::string& name, const std::string& from,
                          const std::function<vtkSmartPointer<vtkProp>()>& make) {
    auto& item = items_[name];
    item.named = true;
    if (!item.prop || from.empty() || item.from != from) {
        if (item.prop) renderer_->RemoveViewProp(item.prop);
        item.prop = make();
        item.from = from;
        renderer_->AddViewProp(item.prop);
    }
    item.prop->SetVisibility(shown_);
    return item.prop;
}

void SceneItems::hold(const std::string& name) {
    if (const auto it = items_.find(name); it != items_.end()) it->second.named = true;
}

void SceneItems::remove(const std::string& name) {
    const auto it = items_.find(name);
    if (it == items_.end()) return;
    renderer_->RemoveViewProp(it->second.prop);
    items_.erase(it);
}

void SceneItems::finish() {
    std::erase_if(items_, [&](auto& entry) {
        if (entry.second.named) return false;
        renderer_->RemoveViewProp(entry.second.prop);
        return true;
    });
}

void SceneItems::setShown(bool shown) {
    shown_ = shown;
    for (auto& [name, item] : items_) item.prop->SetVisibility(shown);
}

}  // namespace cvane::desk
