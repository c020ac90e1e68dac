// Sets a report in type: cvane-paper OUTLINE.json REPORT.pdf [A4|letter]. Needs no display. Exit code 2, with a
// sentence on stderr, for what cannot be read or written.
#include <fmt/format.h>
#include <qcustomplot.h>

#include <QAbstractTextDocumentLayout>
#include <QApplication>
#include <QImage>
#include <QPainter>
#include <QPdfWriter>
#include <QPicture>
#include <QTextBlock>
#include <QTextCursor>
#include <QTextDocument>
#include <QTextObjectInterface>
#include <QTextTable>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "report/inks.h"
#include "report/paper/links.h"

namespace {
using cvane::base::InputError;
namespace report = cvane::report;
using nlohmann::json;

constexpr int kPlot = QTextFormat::UserObject + 1;
constexpr int kNumber = QTextFormat::UserProperty + 1;
constexpr int kResolution = 300;  ///< dots an inch
constexpr double kMargin_mm = 20.0;
constexpr QSize kPlotSize(720, 380);  ///< in the plot's own pixels

QString text(const json& j) {
    return QString::fromStdString(j.get<std::string>());
}

QColor curveColour(std::size_t i) {
    return QColor(report::curveInk(i));
}

/// A plot as strokes, not as dots.
QPicture pictureOf(const json& j) {
    QCustomPlot plot;
    plot.setGeometry(0, 0, kPlotSize.width(), kPlotSize.height());
    QFont small("DejaVu Sans");
    small.setPixelSize(12);
    plot.xAxis->setLabel(text(j["x"]));
    plot.yAxis->setLabel(text(j["y"]));
    for (auto* a : {plot.xAxis, plot.yAxis}) {
        a->setLabelFont(small);
        a->setTickLabelFont(small);
        a->setNumberFormat("gb");
        a->setNumberPrecision(4);
        const QPen thin(QColor(report::kInk), 0.8);
        a->setBasePen(thin);
        a->setTickPen(thin);
        a->setSubTicks(false);
        a->grid()->setPen(QPen(QColor(report::kLineInk), 0.6));
    }
    // Above the plot and a part of it, so that no page comes between.
    plot.plotLayout()->insertRow(0);
    auto* title = new QCPTextElement(&plot, text(j["title"]));
    QFont bold = small;
    bold.setPixelSize(13);
    bold.setWeight(QFont::DemiBold);
    title->setFont(bold);
    title->setTextFlags(Qt::AlignLeft | Qt::AlignVCenter);
    plot.plotLayout()->addElement(0, 0, title);
    plot.legend->setFont(small);
    std::size_t colour = 0;
    for (const auto& c : j["curves"]) {
        const QColor ink = curveColour(colour++);
        auto* curve = new QCPCurve(plot.xAxis, plot.yAxis);
        const auto x = c["x"].get<std::vector<double>>(), y = c["y"].get<std::vector<double>>(),
                   band = c["band"].get<std::vector<double>>();
        curve->setData(QVector<double>(x.begin(), x.end()), QVector<double>(y.begin(), y.end()));
        curve->setName(text(c["name"]));
        curve->setPen(QPen(ink, 1.6));
        if (c["points"].get<bool>()) curve->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, ink, ink, 5));
        if (band.size() == x.size() && !band.empty()) {
            auto* bars = new QCPErrorBars(plot.xAxis, plot.yAxis);
            bars->setDataPlottable(curve);
            bars->setPen(QPen(ink));
            bars->setData(QVector<double>(band.begin(), band.end()));
            bars->removeFromLegend();
        }
    }
    plot.rescaleAxes();
    for (auto* a : {plot.xAxis, plot.yAxis}) {
        if (!(a->range().size() > 0.0)) a->setRange(a->range().center() - 1.0, a->range().center() + 1.0);
        a->scaleRange(1.1);
    }
    plot.yAxis->setRangeReversed(j["upside_down"].get<bool>());
    // Beside the plot, where it covers nothing.
    plot.legend->setVisible(j["curves"].size() > 1);
    if (plot.legend->visible()) {
        auto* aside = new QCPLayoutGrid;
        plot.plotLayout()->addElement(1, 1, aside);
        aside->addElement(0, 0, plot.legend);
        aside->addElement(1, 0, new QCPLayoutElement(&plot));  // what is left below it
        aside->setRowStretchFactor(0, 0.001);
        plot.plotLayout()->setColumnStretchFactor(1, 0.001);
        plot.legend->setBorderPen(QPen(QColor(report::kLineInk), 0.6));
    }
    QPicture out;
    QCPPainter painter;
    painter.begin(&out);
    painter.setMode(QCPPainter::pmVectorized);
    plot.toPainter(&painter, kPlotSize.width(), kPlotSize.height());
    painter.end();
    return out;
}

/// Puts plots into the text.
class PlotObject : public QObject, public QTextObjectInterface {
    Q_OBJECT
    Q_INTERFACES(QTextObjectInterface)
  public:
    QSizeF intrinsicSize(QTextDocument*, int, const QTextFormat& f) override {
        const double width = f.property(kNumber + 1).toDouble();
        return {width, width * kPlotSize.height() / kPlotSize.width()};
    }
    void drawObject(QPainter* painter, const QRectF& at, QTextDocument*, int, const QTextFormat& f) override {
        painter->save();
        painter->translate(at.topLeft());
        const QPicture& picture = pictures[static_cast<std::size_t>(f.property(kNumber).toInt())];
        // The library plays a picture in its own dots an inch; here it is to fill its place.
        const double dots = static_cast<double>(picture.logicalDpiX()) / painter->device()->logicalDpiX();
        painter->scale(dots * at.width() / kPlotSize.width(), dots * at.height() / kPlotSize.height());
        painter->drawPicture(0, 0, picture);
        painter->restore();
    }
    std::vector<QPicture> pictures;
};

class Paper {
  public:
    Paper(const json& outline, const std::string& file, bool letter)
        : outline_(outline), pdf_(QString::fromStdString(file)) {
        pdf_.setPageSize(QPageSize(letter ? QPageSize::Letter : QPageSize::A4));
        pdf_.setPageMargins(QMarginsF(0, 0, 0, 0));
        pdf_.setResolution(kResolution);
        pdf_.setTitle(text(outline["title"]));
        pdf_.setCreator("Crisp Vane");
        margin_ = kMargin_mm / 25.4 * kResolution;
        width_ = pdf_.width() - 2.0 * margin_;
        height_ = pdf_.height();
        // Margins and widths of tables and pictures are told in dots of a screen.
        const QWidget screen;
        formatWidth_ = width_ * screen.logicalDpiX() / kResolution;
    }

    int set() {
        document_.documentLayout()->setPaintDevice(&pdf_);
        document_.documentLayout()->registerHandler(kPlot, &plots_);
        document_.setDefaultFont(QFont("DejaVu Sans", 9));
        document_.setPageSize(QSizeF(pdf_.width(), pdf_.height()));
        document_.setDocumentMargin(margin_ * formatWidth_ / width_);
        // As one edit: the text would be laid out anew after each word otherwise.
        QTextCursor cursor(&document_);
        cursor.beginEditBlock();
        const auto& blocks = outline_["blocks"];
        std::size_t next = title(cursor);
        contents(cursor, next > 0);
        for (; next < blocks.size(); ++next) block(cursor, blocks[next]);
        cursor.endEditBlock();
        keepHeadingsWithText();
        // The pages of the headings are known once all is laid out; figures of one width leave them where they are.
        std::vector<int> pages;
        for (const auto& heading : headings_) {
            const QRectF at = document_.documentLayout()->blockBoundingRect(document_.findBlock(heading.position()));
            pages.push_back(1 + static_cast<int>(at.top() / height_));
        }
        cursor.beginEditBlock();
        for (std::size_t i = 0; i < pages.size(); ++i)
            contents_->cellAt(static_cast<int>(i), 1).firstCursorPosition().insertText(QString::number(pages[i]));
        cursor.endEditBlock();
        return draw();
    }

    /// Known once the pages are set.
    std::vector<cvane::paper::Heading> headings() const {
        const auto placeOf = [&](const QTextBlock& block) {
            const QRectF at = document_.documentLayout()->blockBoundingRect(block);
            const auto page = static_cast<std::size_t>(at.top() / height_);
            const double from = static_cast<double>(page) * height_, side = margin_ / pdf_.width();
            return cvane::paper::Heading::Place{page, (at.top() - from) / height_, (at.bottom() - from) / height_, side,
                                                1.0 - side};
        };
        std::vector<cvane::paper::Heading> out;
        for (std::size_t i = 0; i < headings_.size(); ++i) {
            const QTextBlock self = document_.findBlock(headings_[i].position()),
                             line = contents_->cellAt(static_cast<int>(i), 0).firstCursorPosition().block();
            out.push_back({self.text().toStdString(), self.blockFormat().headingLevel(), placeOf(line), placeOf(self)});
        }
        return out;
    }

  private:
    QTextBlockFormat spaced(double above, double below) const {
        QTextBlockFormat f;
        f.setTopMargin(above / 25.4 * kResolution);
        f.setBottomMargin(below / 25.4 * kResolution);
        return f;
    }
    static QTextCharFormat type(double points, bool bold, const QColor& ink = QColor(report::kInk)) {
        QTextCharFormat f;
        f.setFontPointSize(points);
        f.setFontWeight(bold ? QFont::DemiBold : QFont::Normal);
        f.setForeground(ink);
        return f;
    }

    /// The title, and the section that stands on its page. @return how many blocks that took
    std::size_t title(QTextCursor& c) {
        const auto& blocks = outline_["blocks"];
        const bool answers = !blocks.empty() && blocks[0].value("on_title_page", false);
        c.setBlockFormat(spaced(answers ? 0 : 50, 2));
        c.insertText(text(outline_["title"]), type(answers ? 20 : 26, true));
        c.insertBlock(spaced(0, answers ? 4 : 12));
        c.insertText(text(outline_["subtitle"]), type(11, false));
        std::size_t taken = 0;
        if (answers) do
                block(c, blocks[taken++]);
            while (taken < blocks.size() && !(blocks[taken]["kind"] == "heading" && blocks[taken]["level"] == 1));
        return taken;
    }

    /// A heading at the foot of a page goes to the next one, with what it is the heading of.
    void keepHeadingsWithText() {
        const auto pageOf = [&](const QTextBlock& b, bool foot) {
            const QRectF at = document_.documentLayout()->blockBoundingRect(b);
            return static_cast<int>((foot ? at.bottom() - 1.0 : at.top()) / height_);
        };
        for (const auto& heading : headings_) {
            const QTextBlock self = document_.findBlock(heading.position()), after = self.next();
            if (!after.isValid() || self.blockFormat().headingLevel() == 1 ||
                pageOf(self, true) == pageOf(after, false))
                continue;
            QTextCursor c(self);
            auto f = self.blockFormat();
            f.setPageBreakPolicy(QTextFormat::PageBreak_AlwaysBefore);
            c.setBlockFormat(f);
        }
    }

    void contents(QTextCursor& c, bool onItsOwnPage) {
        int count = 0;
        for (const auto& b : outline_["blocks"])
            if (b["kind"] == "heading") ++count;
        auto head = spaced(10, 2);
        if (onItsOwnPage) head.setPageBreakPolicy(QTextFormat::PageBreak_AlwaysBefore);
        c.insertBlock(head);
        c.insertText(QObject::tr("Contents"), type(13, true));
        QTextTableFormat f;
        f.setBorder(0);
        f.setCellPadding(6);
        f.setWidth(formatWidth_);
        f.setColumnWidthConstraints(
            {QTextLength(QTextLength::PercentageLength, 90), QTextLength(QTextLength::PercentageLength, 10)});
        contents_ = c.insertTable(std::max(1, count), 2, f);
        int row = 0;
        for (const auto& b : outline_["blocks"])
            if (b["kind"] == "heading") {
                auto cell = contents_->cellAt(row, 0).firstCursorPosition();
                const int level = b["level"].get<int>();
                cell.insertText(QString(qsizetype{4} * (level - 1), QChar(0xa0)) + text(b["text"]),
                                type(level == 1 ? 10 : 9, level == 1));
                ++row;
            }
        c.movePosition(QTextCursor::End);
    }

    void block(QTextCursor& c, const json& b) {
        const std::string kind = b["kind"];
        if (kind == "heading") {
            const int level = b["level"];
            auto f = spaced(level == 1 ? 0 : 5, 2);
            f.setHeadingLevel(level);
            const bool onTitlePage = b.value("on_title_page", false);
            if (level == 1 && !onTitlePage) f.setPageBreakPolicy(QTextFormat::PageBreak_AlwaysBefore);
            c.insertBlock(f);
            headings_.push_back(c);
            headings_.back().setKeepPositionOnInsert(true);
            c.insertText(text(b["text"]), type(level == 1 && !onTitlePage ? 17 : 12, true));
        } else if (kind == "text") {
            c.insertBlock(spaced(0.5, 1.5));
            c.insertText(text(b["text"]), type(9, false));
        } else if (kind == "table") {
            table(c, b);
        } else if (kind == "picture") {
            const QImage image(text(b["file"]));
            if (image.isNull()) throw InputError("is no picture.", b["file"].get<std::string>(), "Draw it again.");
            c.insertBlock(spaced(2, 1));
            const QString name = QString("picture%1").arg(++images_);
            document_.addResource(QTextDocument::ImageResource, QUrl(name), image);
            QTextImageFormat f;
            f.setName(name);
            f.setWidth(formatWidth_);
            f.setHeight(formatWidth_ * image.height() / image.width());
            c.insertImage(f);
            c.insertBlock(spaced(0, 3));
            c.insertText(text(b["caption"]), type(8, false, QColor(report::kFaintInk)));
        } else if (kind == "plot") {
            plots_.pictures.push_back(pictureOf(b));
            QTextCharFormat f;
            f.setObjectType(kPlot);
            f.setProperty(kNumber, static_cast<int>(plots_.pictures.size()) - 1);
            f.setProperty(kNumber + 1, width_);
            c.insertBlock(spaced(2, 2));
            c.insertText(QString(QChar::ObjectReplacementCharacter), f);
        }
    }

    void table(QTextCursor& c, const json& b) {
        const auto head = b["head"].get<std::vector<std::string>>();
        const auto rows = b["rows"].get<std::vector<std::vector<std::string>>>();
        c.insertBlock(spaced(1, 0));
        QTextTableFormat f;
        f.setHeaderRowCount(1);
        f.setBorderStyle(QTextFrameFormat::BorderStyle_Solid);
        f.setBorderBrush(QColor(report::kLineInk));
        f.setBorder(2);
        f.setBorderCollapse(true);
        f.setCellPadding(10);
        f.setWidth(formatWidth_);
        auto* t = c.insertTable(static_cast<int>(rows.size()) + 1, std::max(1, static_cast<int>(head.size())), f);
        // Many columns take small letters.
        const double points = head.size() > 9 ? 6.0 : head.size() > 6 ? 7.0 : 8.0;
        const bool numbers = b["numbers"];
        const auto put = [&](int row, int column, const std::string& word, bool bold) {
            auto cell = t->cellAt(row, column).firstCursorPosition();
            QTextBlockFormat right;
            if (numbers && column > 0) right.setAlignment(Qt::AlignRight);
            cell.setBlockFormat(right);
            cell.insertText(QString::fromStdString(word), type(points, bold));
        };
        for (std::size_t k = 0; k < head.size(); ++k) put(0, static_cast<int>(k), head[k], true);
        for (std::size_t r = 0; r < rows.size(); ++r)
            for (std::size_t k = 0; k < std::min(head.size(), rows[r].size()); ++k)
                put(static_cast<int>(r) + 1, static_cast<int>(k), rows[r][k], false);
        c.movePosition(QTextCursor::End);
    }

    int draw() {
        QPainter painter;
        if (!painter.begin(&pdf_)) return -1;
        const int pages = document_.pageCount();
        for (int i = 0; i < pages; ++i) {
            if (i > 0 && !pdf_.newPage()) return -1;
            painter.save();
            painter.translate(0, -i * height_);
            const QRectF page(0, i * height_, pdf_.width(), height_);
            painter.setClipRect(page);
            QAbstractTextDocumentLayout::PaintContext context;
            context.clip = page;
            document_.documentLayout()->draw(&painter, context);
            painter.restore();
            if (i == 0) continue;
            painter.setFont(QFont("DejaVu Sans", 7));
            painter.setPen(QColor(report::kFaintInk));
            const QRectF foot(margin_, height_ - 0.7 * margin_, width_, 0.4 * margin_);
            painter.drawText(foot, Qt::AlignLeft, text(outline_["title"]));
            painter.drawText(foot, Qt::AlignRight, QObject::tr("%1 of %2").arg(i + 1).arg(pages));
        }
        return painter.end() ? pages : -1;
    }

    const json& outline_;
    QPdfWriter pdf_;
    QTextDocument document_;
    PlotObject plots_;
    double margin_ = 0.0, width_ = 0.0, height_ = 0.0, formatWidth_ = 0.0;
    QTextTable* contents_ = nullptr;
    std::vector<QTextCursor> headings_;
    int images_ = 0;
};
}  // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    if (argc < 3) {
        fmt::print(stderr, "cvane-paper OUTLINE.json REPORT.pdf [A4|letter]\n");
        return 2;
    }
    try {
        const auto outline = cvane::base::readJson(argv[1]);
        int pages = 0;
        cvane::base::replaceFile(argv[2], [&](const std::filesystem::path& file) {
            std::vector<cvane::paper::Heading> headings;
            {
                // The file is whole once its writer is gone.
                Paper paper(outline, file.string(), argc > 3 && std::string(argv[3]) == "letter");
                pages = paper.set();
                headings = paper.headings();
            }
            if (pages < 0) throw InputError("cannot be written.", argv[2], "Check the folder and the free space.");
            cvane::paper::linkHeadings(file, headings);
        });
        fmt::print("pages {}\n", pages);
        return 0;
    } catch (const std::exception& e) {
        fmt::print(stderr, "{}\n", e.what());
        return 2;
    }
}

#include "main.moc"
