"""Bytes in the store: taken in pieces, kept once for each content, held against checksums at every read."""

from __future__ import annotations

import io
import os
from datetime import UTC, datetime, timedelta

import pytest
import soundfile
from sqlalchemy import text

from eager_ear.ids import uuid7
from eager_ear.store import CHUNK_BYTES, Damaged, Database, FileReader, NotFound, UnitOfWork
from eager_ear.use_cases.visits.bytes_in import sweep
from tests.store.test_store import new_job
from tests.web.visits import small_wav

NOW = datetime(2026, 3, 4, 5, 6, 7, tzinfo=UTC)


def kept(database: Database, content: bytes) -> int:
    with UnitOfWork(database) as work:
        return work.files.keep(io.BytesIO(content), now=NOW).id


def test_bytes_come_back_whole_and_in_part(database: Database) -> None:
    content = os.urandom(2 * CHUNK_BYTES + 12345)
    file_id = kept(database, content)
    with UnitOfWork(database) as work:
        assert b"".join(work.files.read(file_id)) == content
        first, last = CHUNK_BYTES - 10, 2 * CHUNK_BYTES + 3
        assert b"".join(work.files.read(file_id, first=first, last=last)) == content[first : last + 1]
        assert b"".join(work.files.read(file_id, first=len(content))) == b""


def test_the_same_content_is_stored_once_and_goes_with_its_last_use(database: Database) -> None:
    one, other = kept(database, b"sound" * 1000), kept(database, b"sound" * 1000)
    assert one == other
    with UnitOfWork(database) as work:
        assert work.session.scalar(text("SELECT COUNT(*) FROM file_chunks")) == 1
        job = new_job(work)
        uuid = uuid7(NOW)
        work.attachments.add(
            uuid=uuid, job_id=job.id, purpose="recording", name="a.wav", total_bytes=5000, file_id=one, now=NOW
        )
        work.files.forget_unused(one)
        assert work.files.get(one).size_bytes == 5000
        work.attachments.forget(uuid)
        work.files.forget_unused(one)
        with pytest.raises(NotFound):
            work.files.get(one)
        assert work.session.scalar(text("SELECT COUNT(*) FROM file_chunks")) == 0


def test_two_names_that_differ_in_case_or_accents_are_two_files(database: Database) -> None:
    names = ["spin.wav", "SPIN.wav", "spín.wav"]
    with UnitOfWork(database) as work:
        job = new_job(work)
        for name in names:
            file = work.files.keep(io.BytesIO(name.encode()), now=NOW)
            work.attachments.add(
                uuid=uuid7(NOW), job_id=job.id, purpose="recording", name=name, total_bytes=8, file_id=file.id, now=NOW
            )
    with UnitOfWork(database) as work:
        assert sorted(a.name for a in work.attachments.of_job(job.id).values()) == sorted(names)


def test_a_changed_byte_is_noticed_at_every_read(database: Database) -> None:
    file_id = kept(database, b"sound" * 100)
    with database.engine.begin() as connection:
        connection.execute(text("UPDATE file_chunks SET content = REPLACE(content, 'sound', 'sOund')"))
    with UnitOfWork(database) as work, pytest.raises(Damaged, match="checksum"):
        list(work.files.read(file_id))


def test_a_stretch_of_sound_is_read_without_the_rest(database: Database) -> None:
    content = small_wav() + b""
    big = io.BytesIO()
    samples, rate = soundfile.read(io.BytesIO(content))
    soundfile.write(big, list(samples) * 60, rate, format="WAV", subtype="PCM_16")
    file_id = kept(database, big.getvalue())
    fetched: list[int] = []

    class Counting(FileReader):
        def readinto(self, buffer: bytearray | memoryview) -> int:  # type: ignore[override]
            got = super().readinto(buffer)
            fetched.append(got)
            return got

    reader = Counting(database, file_id, size_bytes=len(big.getvalue()))
    with soundfile.SoundFile(reader) as sound:
        sound.seek(700_000)
        stretch = sound.read(1000)
    whole, _ = soundfile.read(io.BytesIO(big.getvalue()))
    assert (stretch == whole[700_000:701_000]).all()
    # One that lies across the end of a chunk is as whole as any.
    across = CHUNK_BYTES // 2
    with soundfile.SoundFile(FileReader(database, file_id, size_bytes=len(big.getvalue()))) as sound:
        sound.seek(across - 5000)
        assert (sound.read(10_000) == whole[across - 5000 : across + 5000]).all()
    assert sum(fetched) < len(big.getvalue()) / 4


def test_what_never_came_whole_is_forgotten_after_a_month(database: Database) -> None:
    old, recent, whole = (uuid7(NOW) for _ in range(3))
    now = datetime.now(UTC)
    with UnitOfWork(database) as work:
        job = new_job(work).id
        for uuid, age in ((old, timedelta(days=31)), (recent, timedelta(days=29))):
            file_id = work.files.begin(now=NOW)
            work.files.append(file_id, b"half")
            work.attachments.add(
                uuid=uuid,
                job_id=job,
                purpose="recording",
                name="spin.wav",
                total_bytes=8,
                file_id=file_id,
                now=now - age,
            )
    kept_id = kept(database, b"a whole file")
    with UnitOfWork(database) as work:
        work.attachments.add(
            uuid=whole,
            job_id=job,
            purpose="recording",
            name="old.wav",
            total_bytes=12,
            file_id=kept_id,
            now=now - timedelta(days=400),
        )
    assert (sweep(database), sweep(database)) == (1, 0)
    with UnitOfWork(database) as work:
        assert work.attachments.find(old) is None
        assert work.attachments.find(recent) is not None
        assert work.attachments.find(whole) is not None
