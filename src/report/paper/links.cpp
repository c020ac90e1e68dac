#include "report/paper/links.h"

#include <algorithm>
#include <memory>
#include <qpdf/Buffer.hh>
#include <qpdf/QPDF.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFWriter.hh>

#include "base/errors.h"
#include "base/files.h"

namespace cvane::paper {
namespace {
using Object = QPDFObjectHandle;

Object number(double v) {
    return Object::newReal(v, 2);
}

/// A page, and from shares of it to points, counted from below.
struct Sheet {
    Object page;
    double left, bottom, width, height;
    explicit Sheet(QPDFPageObjectHelper helper) : page(helper.getObjectHandle()) {
        const auto box = helper.getMediaBox().getArrayAsRectangle();
        left = box.llx;
        bottom = box.lly;
        width = box.urx - box.llx;
        height = box.ury - box.lly;
    }
    double x(double share) const { return left + share * width; }
    double y(double share) const { return bottom + (1.0 - share) * height; }
};

/// The page with a heading's upper edge at the top of the window, the enlargement left as it is.
Object destination(const Sheet& sheet, double top) {
    return Object::newArray(
        {sheet.page, Object::newName("/XYZ"), Object::newNull(), number(sheet.y(top)), Object::newNull()});
}

void addOutline(QPDF& pdf, const std::vector<Heading>& headings, const std::vector<Sheet>& sheets) {
    struct Entry {
        Object self, last;  ///< its dictionary; the latest of those below it
        int level, below = 0;
    };
    const auto dictionary = [&] { return pdf.makeIndirectObject(Object::newDictionary()); };
    std::vector<Entry> open{{dictionary(), Object::newNull(), 0}};
    const auto close = [&] {
        Entry& e = open.back();
        // Those of the first level are shown, the others when they are asked for.
        if (e.below > 0) e.self.replaceKey("/Count", Object::newInteger(e.level == 0 ? e.below : -e.below));
        open.pop_back();
    };
    for (const Heading& h : headings) {
        while (open.back().level >= h.level) close();
        Entry& above = open.back();
        Object self = dictionary();
        self.replaceKey("/Title", Object::newUnicodeString(h.text));
        self.replaceKey("/Parent", above.self);
        self.replaceKey("/Dest", destination(sheets[h.self.page], h.self.top));
        if (above.below == 0) {
            above.self.replaceKey("/First", self);
        } else {
            self.replaceKey("/Prev", above.last);
            above.last.replaceKey("/Next", self);
        }
        above.self.replaceKey("/Last", self);
        above.last = self;
        ++above.below;
        open.push_back({self, Object::newNull(), h.level});
    }
    while (open.size() > 1) close();
    Object root = open.back().self;
    close();
    root.replaceKey("/Type", Object::newName("/Outlines"));
    pdf.getRoot().replaceKey("/Outlines", root);
    pdf.getRoot().replaceKey("/PageMode", Object::newName("/UseOutlines"));
}

void addLinks(QPDF& pdf, const std::vector<Heading>& headings, const std::vector<Sheet>& sheets) {
    for (const Heading& h : headings) {
        const Sheet& at = sheets[h.line.page];
        Object link = Object::newDictionary();
        link.replaceKey("/Type", Object::newName("/Annot"));
        link.replaceKey("/Subtype", Object::newName("/Link"));
        link.replaceKey("/Rect", Object::newArray({number(at.x(h.line.left)), number(at.y(h.line.bottom)),
                                                   number(at.x(h.line.right)), number(at.y(h.line.top))}));
        link.replaceKey("/Border", Object::newArray({number(0), number(0), number(0)}));
        link.replaceKey("/Dest", destination(sheets[h.self.page], h.self.top));
        Object page = at.page;
        if (!page.hasKey("/Annots")) page.replaceKey("/Annots", Object::newArray());
        page.getKey("/Annots").appendItem(pdf.makeIndirectObject(link));
    }
}
}  // namespace

void linkHeadings(const std::filesystem::path& file, const std::vector<Heading>& headings) {
    if (headings.empty()) return;
    const std::string before = base::readFile(file);
    std::string after;
    try {
        QPDF pdf;
        pdf.processMemoryFile(file.c_str(), before.data(), before.size());
        std::vector<Sheet> sheets;
        for (const auto& page : QPDFPageDocumentHelper(pdf).getAllPages()) sheets.emplace_back(page);
        for (const Heading& h : headings)
            if (std::max(h.line.page, h.self.page) >= sheets.size())
                throw base::InputError("has fewer pages than its contents name.", file.string(), "Write it again.");
        addLinks(pdf, headings, sheets);
        addOutline(pdf, headings, sheets);
        QPDFWriter writer(pdf);
        writer.setDeterministicID(true);
        writer.setOutputMemory();
        writer.write();
        const std::unique_ptr<Buffer> out(writer.getBuffer());
        after.assign(reinterpret_cast<const char*>(out->getBuffer()), out->getSize());
    } catch (const QPDFExc& e) {
        throw base::InputError(std::string("cannot be given its links: ") + e.what(), file.string(), "Write it again.");
    }
    base::replaceFile(file, after);
}

}  // namespace cvane::paper
