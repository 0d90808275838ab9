"""Case folders and zips, WAV, FLAC and CSV: files to core types and back."""

from eager_ear.casefile.archive import pack_file, unpacked
from eager_ear.casefile.description import (
    CaseDescription,
    RecordingEntry,
    description_to_json,
    machine_to_json,
    parse_description,
)
from eager_ear.casefile.errors import FileProblem, FileTooLarge, UnreadableFile, UnsafeArchive
from eager_ear.casefile.folder import (
    read_case_folder,
    read_description,
    read_signal,
    recording_path,
    write_case_folder,
)

__all__ = [
    "CaseDescription",
    "FileProblem",
    "FileTooLarge",
    "RecordingEntry",
    "UnreadableFile",
    "UnsafeArchive",
    "description_to_json",
    "machine_to_json",
    "pack_file",
    "parse_description",
    "read_case_folder",
    "read_description",
    "read_signal",
    "recording_path",
    "unpacked",
    "write_case_folder",
]
