#pragma once
#include <vtkProp.h>
#include <vtkRenderer.h>
#include <vtkSmartPointer.h>

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace cvane::desk {

/// What one part of the window has put into the 3D view. Others' things stay; its own are kept by name and made anew
/// only when what they were made from has changed. Colour bars go into the margin.
class SceneItems {
  public:
    explicit SceneItems(vtkRenderer* renderer, vtkRenderer* margin = nullptr);
    ~SceneItems();
    SceneItems(const SceneItems&) = delete;
    SceneItems& operator=(const SceneItems&) = delete;

    /// Begins what shall be seen from now on; what is not named until `finish` is taken out.
    void begin();
    /// The item of this name, made by `make` unless it was made from the same before.
    /// @param from  says in short what it is made from; empty: always anew
    vtkProp* keep(const std::string& name, const std::string& from,
                  const std::function<vtkSmartPointer<vtkProp>()>& make);
    vtkProp* add(const std::string& name, vtkSmartPointer<vtkProp> prop) {
        return keep(name, {}, [&] { return prop; });
    }
    /// Whether an item of this name is there, made from this.
    bool has(const std::string& name, const std::string& from) const {
        const auto it = items_.find(name);
        return it != items_.end() && it->second.from == from;
    }
    /// Lets an item that is there stay as it is: what shall take its place is still being worked out.
    void hold(const std::string& name);
    void remove(const std::string& name);
    void finish();
    /// Hides all, or shows it again, when its part of the window is left or come back to.
    void setShown(bool shown);
    std::size_t size() const { return items_.size(); }

  private:
    struct Item {
        vtkSmartPointer<vtkProp> prop;
        std::string from;
        bool named = true;
    };
    vtkRenderer& rendererOf(vtkProp& prop) const;
    void takeOut(const Item& item) { rendererOf(*item.prop).RemoveViewProp(item.prop); }

    vtkSmartPointer<vtkRenderer> renderer_, margin_;
    std::map<std::string, Item> items_;
    bool shown_ = true;
};

}  // namespace cvane::desk
