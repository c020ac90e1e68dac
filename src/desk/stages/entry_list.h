#pragma once
#include <QFormLayout>
#include <QListWidget>
#include <QMenu>
#include <QWidget>
#include <functional>

namespace cvane::desk {

/// A list of entries, buttons that add and take out, and below them a form for the chosen one.
class EntryList : public QWidget {
    Q_OBJECT
  public:
    /// Object names of the list, the button that adds and the one that takes out.
    struct Names {
        const char *list, *add, *remove;
    };
    EntryList(const Names& names, int height);

    QListWidget& list() const { return *list_; }
    QMenu& addMenu() const { return *addMenu_; }
    /// The form that is shown; nothing before the first newForm().
    QFormLayout* form() const { return form_; }
    /// An empty form in the place of the last.
    void newForm();
    /// Empties the list and lets `fill` add the entries. The chosen row stays chosen as far as there is one, without a
    /// signal; a list without entries is hidden.
    void refill(const std::function<void(QListWidget&)>& fill);

  signals:
    void removed();  ///< the button that takes the chosen one out was clicked

  private:
    QListWidget* list_;
    QMenu* addMenu_;
    QWidget* formHolder_;
    QFormLayout* form_ = nullptr;
};

}  // namespace cvane::desk
