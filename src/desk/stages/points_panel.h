#pragma once
#include "desk/model/document.h"
#include "desk/stages/entry_list.h"

namespace cvane::desk {

/// Points beyond the product of the lists: groups that can be switched off, held lifts, single points; a table pasted,
/// a setting varied. The chosen one is edited below the list.
class PointsPanel : public EntryList {
    Q_OBJECT
  public:
    explicit PointsPanel(Document& document);

  private:
    enum class Kind { Group, Held, Single };
    struct Entry {
        Kind kind;
        std::size_t index;
    };
    std::optional<Entry> chosen() const;
    std::size_t entries() const;
    Entry entryAt(std::size_t row) const;
    QString wordsOf(const Entry& entry) const;
    bool isOn(const Entry& entry) const;
    void fill();
    void showChosen();
    void showGroup(std::size_t i);
    void showHeld(std::size_t i);
    void showSingle(std::size_t i);
    void addGroup();
    void addHeld();
    void remove();
    void paste();
    void varySetting();
    /// What the panel changes belongs to the base. `how` may throw InputError, which is told.
    void change(const QString& intent, const std::function<void(campaign::Settings&)>& how);
    void line(const QString& label, const char* name, const QString& value,
              const std::function<void(campaign::Settings&, const std::string&)>& take);
    void pick(const QString& label, const char* name, const QStringList& words, int now,
              const std::function<void(campaign::Settings&, int)>& take);
    /// Which configuration or set-up; the first word stands for none.
    void pickVariant(const QString& label, const char* name, const std::vector<campaign::Variant>& variants,
                     const QString& none, bool withBase, const std::string& now,
                     const std::function<void(campaign::Settings&, const std::string&)>& take);

    Document& document_;
    campaign::Schedule shown_;
    int shownRow_ = -1;
};

}  // namespace cvane::desk
