#pragma once
#include <QComboBox>
#include <QWidget>

#include "desk/model/document.h"

namespace cvane::desk {

/// Asks for a name and makes another configuration or set-up, which is looked at from then on. A name that cannot be is
/// said.
/// @param list   the campaign's configurations or its set-ups;  @param title  of the question; the step of undo too
/// @param patch  on the base's settings, with which it begins
void askForVariant(QWidget* over, Document& document, std::vector<campaign::Variant> campaign::Settings::*list,
                   const QString& title, const QString& proposal = {},
                   const nlohmann::json& patch = nlohmann::json::object());

/// Which configuration and set-up the window looks at and changes; hidden while there is only the base.
class VariantPicker : public QWidget {
    Q_OBJECT
  public:
    explicit VariantPicker(Document& document, QWidget* parent = nullptr);

    /// Asks for a name and makes another configuration or set-up; it starts as the base is.
    void makeConfiguration();
    void makeSetUp();
    /// Takes out the one that is looked at; its results stay in the folder.
    void removeConfiguration();
    void removeSetUp();

  private:
    using List = std::vector<campaign::Variant> campaign::Settings::*;
    void show();
    void remove(List list, const std::string& name, const QString& intent);
    Document& document_;
    QComboBox *configuration_, *setUp_;
};

}  // namespace cvane::desk
