#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QGroupBox>
#include <QSlider>

#include "desk/canvas.h"
#include "view/item_shape.h"

namespace cvane::desk {

/// The chosen item of a flow by numbers and choices. It changes nothing itself: edited() asks for it.
class ItemForm : public QGroupBox {
    Q_OBJECT
  public:
    using Item = campaign::FlowItem;
    ItemForm();
    /// @param shape  what it is made of, once that is known;  @param model  the model's bounds [m]
    void show(const Item& item, const field::FlowField& flow, const view::ItemShape* shape, const Box& model);
    void clear();

    /// What of an item can be dragged in the view.
    static std::vector<Handle> handlesOf(const Item& item);
    /// The item with one of these at another place.
    static Item moved(Item item, const std::string& handle, const Vec3& to);

  signals:
    /// @param intent  in the user's words, for undo
    void edited(const QString& intent, const campaign::FlowItem& item);
    void refused(const QString& sentence);

  private:
    using Kind = Item::Kind;
    void edit(const QString& intent, const std::function<void(Item&)>& how);
    void addRow(const QString& label, QWidget* widget, std::vector<Kind> kinds);
    QDoubleSpinBox* number(const QString& label, const char* name, std::vector<Kind> kinds, const QString& intent,
                           std::function<double&(Item&)> field);
    void place(const QString& label, const char* name, std::vector<Kind> kinds, const QString& intent,
               Vec3 Item::*field);
    void check(const QString& text, const char* name, std::vector<Kind> kinds, bool Item::*field);
    void whole(const QString& label, const char* name, std::vector<Kind> kinds, int low, int high, const QString& zero,
               int Item::*field);
    void makePlane();
    void makeRake();
    void makeColours();
    void fillQuantities(const field::FlowField& flow);
    double reachAlong(const Vec3& normal) const;  ///< of the model [m], which the slider's hundred is

    Item item_;
    Box model_;
    double shownLow_ = 0.0, shownHigh_ = 0.0;
    std::vector<std::function<void(const Item&)>> fillers_;
    std::vector<std::pair<QWidget*, std::vector<Kind>>> rows_;  ///< and the kinds that have them
    QFormLayout* form_;
    QComboBox *quantity_, *colour_, *axis_, *rake_;
    QWidget* normal_;
    QSlider* place_;
    QCheckBox* automatic_;
    QDoubleSpinBox *low_, *high_;
    bool filling_ = false;
};

}  // namespace cvane::desk
