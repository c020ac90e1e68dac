#include "desk/scene_items.h"

#include <vtkScalarBarActor.h>

namespace cvane::desk {

SceneItems::SceneItems(vtkRenderer* renderer, vtkRenderer* margin)
    : renderer_(renderer), margin_(margin ? margin : renderer) {}

vtkRenderer& SceneItems::rendererOf(vtkProp& prop) const {
    return vtkScalarBarActor::SafeDownCast(&prop) ? *margin_ : *renderer_;
}

SceneItems::~SceneItems() {
    for (auto& [name, item] : items_) takeOut(item);
}

void SceneItems::begin() {
    for (auto& [name, item] : items_) item.named = false;
}

vtkProp* SceneItems::keep(const std::string& name, const std::string& from,
                          const std::function<vtkSmartPointer<vtkProp>()>& make) {
    auto& item = items_[name];
    item.named = true;
    if (!item.prop || from.empty() || item.from != from) {
        if (item.prop) takeOut(item);
        item.prop = make();
        item.from = from;
        rendererOf(*item.prop).AddViewProp(item.prop);
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
    takeOut(it->second);
    items_.erase(it);
}

void SceneItems::finish() {
    std::erase_if(items_, [&](auto& entry) {
        if (entry.second.named) return false;
        takeOut(entry.second);
        return true;
    });
}

void SceneItems::setShown(bool shown) {
    shown_ = shown;
    for (auto& [name, item] : items_) item.prop->SetVisibility(shown);
}

}  // namespace cvane::desk
