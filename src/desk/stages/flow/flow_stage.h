#pragma once
#include <QListWidget>
#include <QPushButton>
#include <memory>

#include "desk/model/flow_loader.h"
#include "desk/stages/flow/item_form.h"
#include "desk/stages/flow/view_panel.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// What the air does around the model: walls, slices, surfaces and lines, several at a time. Each is a setting of the
/// campaign, so that it can be undone and is drawn for every point. Up to four points stand beside each other.
class FlowStage : public Stage {
    Q_OBJECT
  public:
    FlowStage(Document& document, Middle& middle);
    QString title() const override { return "Flow"; }
    Group group() const override { return Group::Reading; }
    QString keyFigure() const override;
    State state() const override;
    Need need() const override { return needOfResult(); }
    void show() override;
    void showScene(bool on) override;

  private:
    using Item = campaign::FlowItem;
    /// Another point beside the selected one.
    struct Beside {
        int number;  ///< among the picked ones
        std::unique_ptr<FlowLoader> loader;
        std::unique_ptr<SceneItems> scene;
    };
    void makeList();
    void standClear(Item& item) const;
    void add(const QString& name, Item item);
    Item itemOf(Item::Kind kind) const;
    void changeItems(const QString& intent, const std::vector<Item>& next);
    void replaceChosen(const QString& intent, const Item& item);
    void fill();  ///< list and form from the items
    const Item* chosen() const;
    void draw();
    void drawItems(FlowLoader& loader, SceneItems& scene, QStringList& troubles, bool& waiting,
                   std::shared_ptr<const view::ItemShape>* scale);
    void arrangePanes();
    void drawBeside(QStringList& troubles, bool& waiting);
    void showHandles();
    void tell(const Vec3& place);  ///< what is known at a place that was clicked
    void addLinesPastTouched();

    FlowLoader loader_;
    std::vector<Beside> beside_;
    std::vector<Item> items_;
    QListWidget* list_;
    ItemForm* form_;
    ViewPanel* views_;
    QLabel* words_;
    std::optional<field::FaceIndex> touched_;  ///< the wall face that was clicked last
    bool filling_ = false;
    bool tookLarge_ = false, comesAgain_ = false;  ///< items are handed to the view one by one
};

}  // namespace cvane::desk
