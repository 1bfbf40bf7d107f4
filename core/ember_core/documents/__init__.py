"""What leaves the screen: the report of a design, as its content and as a PDF."""

from .content import CHAPTERS, Chapter, ReportBlock, ReportContent, report_content
from .pdf import Paper, report_pdf

__all__ = ["CHAPTERS", "Chapter", "Paper", "ReportBlock", "ReportContent", "report_content", "report_pdf"]
