"""What leaves the screen: the report of a design, as its content and as a PDF."""

from .compare import MOST_COMPARED, Comparison, compare
from .content import CHAPTERS, Chapter, ReportBlock, ReportContent, report_content
from .pdf import Paper, report_pdf

__all__ = [
    "CHAPTERS",
    "MOST_COMPARED",
    "Chapter",
    "Comparison",
    "Paper",
    "ReportBlock",
    "ReportContent",
    "compare",
    "report_content",
    "report_pdf",
]
