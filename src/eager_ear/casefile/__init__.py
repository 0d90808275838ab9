"""Case folders and zips, WAV, FLAC and CSV: files to core types and back."""

from eager_ear.casefile.archive import pack_file, unpacked
from eager_ear.casefile.description import (
    CaseDescription,
    RecordingEntry,
    description_to_json,
    machine_to_json,
    parse_description,
)
from eager_ear.casefile.diary_file import diary_text, read_diary
from eager_ear.casefile.errors import FileProblem, FileTooLarge, UnclearTable, UnreadableFile, UnsafeArchive
from eager_ear.casefile.folder import (
    read_case_folder,
    read_description,
    read_signal,
    recording_path,
    write_case_folder,
)
from eager_ear.casefile.inspection import Inspected, Photo, inspect_photo, inspect_recording
from eager_ear.casefile.sound_stretch import SoundHead, sound_head, sound_stretch

__all__ = [
    "CaseDescription",
    "FileProblem",
    "FileTooLarge",
    "Inspected",
    "Photo",
    "RecordingEntry",
    "SoundHead",
    "UnclearTable",
    "UnreadableFile",
    "UnsafeArchive",
    "description_to_json",
    "diary_text",
    "inspect_photo",
    "inspect_recording",
    "machine_to_json",
    "pack_file",
    "parse_description",
    "read_case_folder",
    "read_description",
    "read_diary",
    "read_signal",
    "recording_path",
    "sound_head",
    "sound_stretch",
    "unpacked",
    "write_case_folder",
]
