"""The application: routes, errors, the built interface."""

from __future__ import annotations

import contextlib
import os
from collections.abc import AsyncIterator
from pathlib import Path

from fastapi import Depends, FastAPI
from fastapi.responses import FileResponse, JSONResponse, Response
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from eager_ear import __version__
from eager_ear.knowledge import load_knowledge
from eager_ear.store import Database
from eager_ear.use_cases.shop.room import Room
from eager_ear.web import errors, routes
from eager_ear.web.actor import who_acts
from eager_ear.web.guard import Guard, more_names
from eager_ear.web.requests_log import Numbered
from eager_ear.web.schemas.base import TroubleOut
from eager_ear.web.state import AppState
from eager_ear.web.watch import Watch

DEFAULT_UPLOAD_LIMIT_MB = 200
# What fits into one packet gains nothing. Beyond level 5 a call takes twice the time for one part in fifty less.
LEAST_COMPRESSED_BYTES, COMPRESS_LEVEL = 1400, 5
A_YEAR = "public, max-age=31536000, immutable"


def create_app(
    *,
    database_url: str,
    interface: Path | None,
    upload_limit_bytes: int,
    files: Path | None = None,
    people_sign_in: bool = True,
) -> FastAPI:
    """The whole application.

    Parameters
    ----------
    interface : folder of the built interface, None to serve the interface's data only
    files : where the database keeps its files, None where that is not known
    people_sign_in : strangers are kept out; without, whoever reaches the server may do everything
    """

    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        database = Database(database_url)
        watch = Watch(database)
        app.state.eager_ear = AppState(
            database=database,
            knowledge=load_knowledge(),
            upload_limit_bytes=upload_limit_bytes,
            watch=watch,
            room=Room(folder=files),
            people_sign_in=people_sign_in,
        )
        try:
            yield
        finally:
            await watch.close()
            database.close()

    app = FastAPI(
        title="Eager Ear",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        responses={status: {"model": TroubleOut, "description": words} for status, words in errors.TOLD.items()},
    )
    errors.install(app)
    # In a cellar the signal is the slowest part: the interface and a call are a third and a sixth as large then.
    app.add_middleware(GZipMiddleware, minimum_size=LEAST_COMPRESSED_BYTES, compresslevel=COMPRESS_LEVEL)
    app.include_router(routes.door)
    for router in (
        routes.people,
        routes.catalogue,
        routes.judging,
        routes.hearing,
        routes.noises,
        routes.faults,
        routes.record,
        routes.repairing,
        routes.shop,
        routes.guiding,
        routes.bench,
        routes.papers,
        routes.jobs,
        routes.changes,
        routes.machines,
        routes.cases,
        routes.comparison,
        routes.listening,
        routes.live,
        routes.attachments,
    ):
        # Whoever acts is asked for once, for every route and the socket.
        app.include_router(router, dependencies=[Depends(who_acts)])
    if interface is not None:
        _serve_interface(app, interface)
    return app


class NamedByContent(StaticFiles):
    """Files that have another name as soon as they have another content: asked for once."""

    def file_response(
        self, full_path: str | os.PathLike[str], stat_result: os.stat_result, scope: Scope, status_code: int = 200
    ) -> Response:
        response = super().file_response(full_path, stat_result, scope, status_code)
        response.headers["Cache-Control"] = A_YEAR
        return response


def _serve_interface(app: FastAPI, interface: Path) -> None:
    app.mount("/assets", NamedByContent(directory=interface / "assets", check_dir=False), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return JSONResponse({"code": "not_found", "message": f"There is no /{path}."}, status_code=404)
        file = (interface / path).resolve()
        if path and file.is_relative_to(interface.resolve()) and file.is_file():
            # Asked for anew each time, so that a new version is noticed: only what is named by its content is kept.
            return FileResponse(file, headers={"Cache-Control": "no-cache"})
        return FileResponse(interface / "index.html", headers={"Cache-Control": "no-cache"})


def from_environment() -> Guard:
    """The application as it is served, configured by the environment."""
    interface = os.environ.get("EAGER_EAR_INTERFACE")
    files = os.environ.get("EAGER_EAR_FILES_FOLDER")
    limit_mb = int(os.environ.get("EAGER_EAR_UPLOAD_LIMIT_MB", str(DEFAULT_UPLOAD_LIMIT_MB)))
    app = create_app(
        database_url=os.environ["EAGER_EAR_DATABASE_URL"],
        interface=Path(interface) if interface else None,
        upload_limit_bytes=limit_mb * 1_000_000,
        files=Path(files) if files else None,
        people_sign_in=os.environ.get("EAGER_EAR_SIGN_IN") != "nobody",
    )
    return Guard(Numbered(app), names=more_names(os.environ.get("EAGER_EAR_NAMES", "")))


def schema_only_app() -> FastAPI:
    """For printing the schema: nothing is connected."""
    return create_app(database_url="", interface=None, upload_limit_bytes=0)
