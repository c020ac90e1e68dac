#pragma once
#include <QComboBox>
#include <QWidget>

#include "desk/model/document.h"

namespace cvane::desk {

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
    void make(List list, const QString& title, bool configuration);
    void remove(List list, const std::string& name, const QString& intent);
    Document& document_;
    QComboBox *configuration_, *setUp_;
};

}  // namespace cvane::desk
