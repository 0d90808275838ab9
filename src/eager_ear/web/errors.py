"""One table: error class -> HTTP status. A sentence for people, a code for programs."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from eager_ear.casefile.errors import FileTooLarge, UnclearTable
from eager_ear.core.errors import CoreError, InputError, NotMeasurable, sayable
from eager_ear.core.visit import NotNow, SaidOtherwise
from eager_ear.store.errors import Conflict, DatabaseBusy, DatabaseUnreachable, NotFound, StoreError, TryAgain
from eager_ear.use_cases.shop.people import LockedOut, NotAllowed, NotSignedIn, WrongPassword
from eager_ear.use_cases.shop.room import NoRoom
from eager_ear.use_cases.visits.bytes_in import NotThere
from eager_ear.web.requests_log import STATE
from eager_ear.web.schemas.base import TableAskedOut, TroubleOut

STATUS: dict[type[CoreError], int] = {
    FileTooLarge: 413,
    InputError: 422,
    NotMeasurable: 422,
    SaidOtherwise: 409,
    NotNow: 409,
    NotThere: 409,
    NotFound: 404,
    Conflict: 409,
    NoRoom: 507,
    TryAgain: 503,
    DatabaseBusy: 503,
    DatabaseUnreachable: 503,
    StoreError: 500,
    NotSignedIn: 401,
    WrongPassword: 401,
    NotAllowed: 403,
    LockedOut: 429,
    CoreError: 500,
}

# What any route may answer besides what it is asked for, all with a `TroubleOut`.
TOLD = {
    401: "Nobody is signed in on this device",
    403: "A page from elsewhere asked, or the role does not allow it",
    404: "There is no such thing",
    408: "What was sent stopped coming",
    409: "Something else was stored before, or it is not the time for it",
    413: "Too much was sent",
    429: "Too many wrong passwords",
    421: "The server is not known by that name",
    422: "What was sent cannot be used",
    500: "The server met something that it cannot handle",
    503: "The database does not answer, or is busy: ask again",
    507: "There is no room for further files",
}


def status_of(kind: type[CoreError]) -> int:
    """Status of the nearest class in the table along the inheritance."""
    return next(STATUS[base] for base in kind.__mro__ if base in STATUS)


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(CoreError)
    async def core_error(_: Request, error: CoreError) -> JSONResponse:
        return JSONResponse(_said(error).model_dump(exclude_none=True), status_code=status_of(type(error)))

    @app.exception_handler(HTTPException)
    async def refused(_: Request, error: HTTPException) -> JSONResponse:
        said = {"code": "refused", "message": f"{str(error.detail).rstrip('.')}."}
        return JSONResponse(said, status_code=error.status_code, headers=error.headers)

    @app.exception_handler(Exception)
    async def failed(request: Request, _: Exception) -> JSONResponse:
        number = getattr(request.state, STATE, "")
        message = "The server met something it cannot handle. What was stored is kept."
        if number:
            message += f" Whoever looks after it finds it in the log as {number}."
        return JSONResponse({"code": "failed", "message": message}, status_code=500)

    @app.exception_handler(RequestValidationError)
    async def bad_request(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"][1:])
        said = sayable(f"{field}: {first['msg']}.")
        return JSONResponse({"code": "bad_field", "message": said}, status_code=422)


def _said(error: CoreError) -> TroubleOut:
    facts = error.facts()
    table = None
    if isinstance(error, UnclearTable):
        table = TableAskedOut.model_validate({name: facts[name] for name in TableAskedOut.model_fields})
    return TroubleOut(
        code=error.code,
        message=sayable(error.sentence()),
        field=sayable(facts["field"]) if facts.get("field") is not None else None,
        received_bytes=facts.get("received_bytes"),
        table=table,
    )
