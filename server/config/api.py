"""The API: one shape for errors (RFC 9457), one place for authentication, the routers of the apps."""

from __future__ import annotations

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import django_auth

from accounts.api import router as accounts_router
from answers.calculators import router as calculators_router
from answers.case import router as case_router
from answers.evaluation import router as evaluation_router
from answers.runtime import router as runtime_router
from answers.supply import router as supply_router
from blobs.api import router as blobs_router
from catalogue.api import router as catalogue_router
from common.errors import Refused
from common.parser import CoreParser
from ember_core import DocumentError, Problem
from ember_core.design.problems import sentence
from instruments.api import router as instruments_router
from jobs.api import router as jobs_router
from notes.api import router as notes_router
from projects.api import router as projects_router
from projects.begin_api import router as begin_router
from projects.bringup_api import router as bringup_router
from projects.planning_api import router as planning_router
from projects.sharing_api import router as sharing_router
from projects.tables_api import router as tables_router
from projects.traces_api import router as traces_router

from .problems import for_exception, problem_response

api = NinjaAPI(
    title="Frugal Ember",
    version="1",
    description="Design documents in, evaluations out; projects, variants and revisions.",
    auth=django_auth,
    docs_url=None,
    parser=CoreParser(),
    urls_namespace="api",
)
api.add_router("", accounts_router)
api.add_router("", blobs_router)
api.add_router("", begin_router)  # before what takes a gadget's number at the same place
api.add_router("", tables_router)
api.add_router("", bringup_router)
api.add_router("", traces_router)
api.add_router("", sharing_router)
api.add_router("", notes_router)
api.add_router("", planning_router)
api.add_router("", projects_router)
api.add_router("", evaluation_router)
api.add_router("", supply_router)
api.add_router("", case_router)
api.add_router("", runtime_router)
api.add_router("", calculators_router)
api.add_router("", catalogue_router)
api.add_router("", jobs_router)
api.add_router("", instruments_router)


@api.exception_handler(DocumentError)
def on_document_error(request: HttpRequest, error: DocumentError) -> HttpResponse:
    return problem_response(422, "The document can't be used", error.problems)


@api.exception_handler(Refused)
def on_refused(request: HttpRequest, error: Refused) -> HttpResponse:
    return problem_response(error.status, error.title, error.problems, **error.more)


@api.exception_handler(ValidationError)
def on_validation_error(request: HttpRequest, error: ValidationError) -> HttpResponse:
    errors = [
        Problem("/" + "/".join(str(s) for s in e["loc"][1:]), sentence(e).removeprefix("Value error, "))
        for e in error.errors
    ]
    return problem_response(422, "The request can't be used", errors)


@api.exception_handler(AuthenticationError)
def on_authentication_error(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return problem_response(401, "Sign in first")


@api.exception_handler(RequestDataTooBig)
def on_too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
    return for_exception(error)


@api.exception_handler(HttpError)
def on_http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
    if isinstance(error.__cause__, DocumentError):  # from the parser
        return problem_response(error.status_code, "The request can't be read", error.__cause__.problems)
    return problem_response(error.status_code, str(error))
