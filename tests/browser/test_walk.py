"""The whole walk in a real browser with real files, at three sizes."""

from __future__ import annotations

import csv
import re
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from eager_ear.casefile import write_case_folder
from eager_ear.core.simulate import SimulatedCase, simulate_corners, with_clamp
from tests.support import RunningServer

ANALYSED_MS = 60_000


@pytest.fixture
def page(browser: Browser, server: RunningServer) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url, locale="en-GB")
    opened = context.new_page()
    troubles: list[str] = []
    opened.on("pageerror", lambda error: troubles.append(str(error)))
    yield opened
    context.close()
    assert troubles == []


@pytest.fixture
def files(tmp_path: Path, simulated: Callable[..., SimulatedCase]) -> Path:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    return tmp_path


def open_job(page: Page, *, told: str = "Growls in spin") -> None:
    page.goto("/")
    page.get_by_role("link", name="New job").click()
    page.get_by_label("Where is the machine?").fill("Boatyard, workshop")
    page.get_by_role("button", name="Open the job").click()
    page.get_by_role("radio", name="Front loader, belt").click()
    page.get_by_label("Plate speed").fill("1600")
    page.get_by_role("radio", name="full speed").click()
    page.get_by_role("button", name=told, exact=True).click()
    page.get_by_role("link", name="Spin").click()
    expect(page.get_by_role("heading", name="Let it spin, and listen")).to_be_visible()


def graphs_are_kept(page: Page, folder: Path) -> None:
    """As a picture, as a drawing that stands alone, and as its numbers."""

    def kept(graph: str, way: str) -> Path:
        page.get_by_role("button", name=f"Keep: {graph}").click()
        with page.expect_download() as begun:
            page.get_by_role("menuitem", name=way).click()
        path = folder / begun.value.suggested_filename
        begun.value.save_as(path)
        return path

    rows = list(csv.DictReader(kept("speed", "Its numbers (CSV)").read_text().splitlines()))
    fastest = max(float(row["rpm"]) for row in rows if row["rpm"])
    assert 1000 < fastest < 2000
    assert {"ramp", "plateau"} <= {row["phase"] for row in rows}
    drawing = kept("speed", "As a drawing (SVG)").read_text()
    assert "<path" in drawing
    assert "var(--" not in drawing
    with Image.open(kept("order carpet", "As a picture (PNG)")) as picture:
        assert picture.width > 600
        # Something is drawn: not one colour alone.
        assert len(picture.convert("RGB").resize((64, 64)).getcolors(4096) or ()) > 20


def test_from_the_board_to_the_call(page: Page, files: Path) -> None:
    open_job(page)
    page.get_by_label("Recordings to add").set_input_files([files / "spin.wav", files / "spin.csv"])
    for _ in range(2):
        page.get_by_role("button", name="Add and analyse").first.click()
    expect(page.get_by_role("heading", name="What the spin test shows")).to_be_visible(timeout=ANALYSED_MS)
    ribbon = page.get_by_role("slider", name="Speed ribbon")
    expect(ribbon).to_be_visible()
    ribbon.press("ArrowRight")
    expect(page.get_by_role("group", name="Order carpet")).to_be_visible(timeout=ANALYSED_MS)
    graphs_are_kept(page, files)
    where_a_number_comes_from(page)
    page.get_by_role("link", name="Call").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Drum bearings worn", timeout=ANALYSED_MS)
    page.get_by_role("button", name="Envelope lines at a bearing race").first.click()
    expect(page.get_by_text("from the recording").first).to_be_visible()
    page.get_by_role("button", name="Close").click()
    page.get_by_role("link", name="board").click()
    expect(page.get_by_text("Boatyard, workshop")).to_be_visible()
    expect(page.get_by_text("take it apart")).to_be_visible()


def where_a_number_comes_from(page: Page) -> None:
    """Tapped, a figure tells its error, how it was made, from which recording, and what the call made of it."""
    figure = page.get_by_role("region", name="Figures").get_by_role("listitem").filter(has_text="Coasts to rest in")
    expect(figure).to_contain_text("±")
    figure.locator("summary").click()
    expect(figure).to_contain_text("followed to rest")
    expect(figure).to_contain_text("From: spin.wav")
    expect(figure).to_contain_text("Drum brakes itself in the coast-down: read as")
    expect(figure).to_contain_text("Lawson & Hanson")


def test_motor_current_is_asked_for_with_a_caution_and_shown(
    page: Page, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, with_clamp(simulated("front_belt", "drum_bearing", 7, 0.9), seed=1).case)
    open_job(page)
    page.get_by_label("Recordings to add").set_input_files([tmp_path / "spin.csv", tmp_path / "current.csv"])
    expect(page.get_by_text("for qualified people only")).to_be_visible()
    for _ in range(2):
        page.get_by_role("button", name="Add and analyse").first.click()
    expect(page.get_by_text("Motor's current, running")).to_be_visible(timeout=ANALYSED_MS)


def test_a_spin_is_laid_beside_an_earlier_one_of_the_layout(
    page: Page, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    open_spin(page, tmp_path, simulated("top_splined", "none", 8, 0.9), "Weir house")
    open_spin(page, tmp_path, simulated("top_splined", "gearcase_bearing", 7, 0.9), "Ferry steps")
    beside = page.get_by_role("region", name="Beside other machines")
    choice = beside.get_by_label("Compare with")
    choice.select_option(choice.locator("option", has_text="Weir house").first.get_attribute("value"))
    expect(beside.get_by_text("Compared with one other spin")).to_be_visible()
    expect(beside.get_by_role("img", name=re.compile("Louder .* dB"))).to_be_visible()
    expect(beside.get_by_text("The microphones are not calibrated")).to_be_visible()


def test_a_spin_is_heard_in_every_way_it_allows(
    page: Page, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    open_spin(page, tmp_path, simulated("top_splined", "none", 8, 0.9), "Weir house")
    open_spin(page, tmp_path, simulated("top_splined", "gearcase_bearing", 7, 0.9), "Ferry steps")
    ear = page.get_by_role("region", name="For the ear")
    # What else was recorded here or elsewhere is asked for once this spin is shown.
    expect(ear.get_by_role("button", name="Beside a sound machine")).to_be_visible()
    expect(ear.get_by_role("button")).to_have_count(10)
    ways = [button.inner_text() for button in ear.get_by_role("button").all()]
    for way in ways:
        ear.get_by_role("button", name=way).click()
        player = ear.get_by_label(f"{way}, for the ear")
        expect(player).to_be_attached(timeout=20_000)
        # All of it is there to be heard.
        expect(player).to_have_js_property("readyState", 4, timeout=ANALYSED_MS)
        assert player.evaluate("player => player.duration > 1 && player.error === null")
    expect(ear.get_by_text(re.compile(r"Both near \d+ rpm"))).to_be_visible()
    # A thread of the carpet is heard from the keyboard as well.
    page.get_by_role("button", name="Hear 2x alone").press("Enter")
    expect(ear.get_by_text("What comes 2 times a turn")).to_be_visible()
    # At the very beginning nothing turns yet, which is said in words.
    page.get_by_role("slider", name="Speed ribbon").click(position={"x": 50, "y": 60})
    ear.get_by_role("button", name="One turn, again and again").click()
    expect(ear.get_by_role("alert")).to_contain_text("the speed is not known")


def open_spin(page: Page, tmp_path: Path, simulated: SimulatedCase, place: str) -> None:
    """Bring a whole case in and wait at its spin until it is analysed."""
    folder = tmp_path / place
    folder.mkdir()
    write_case_folder(folder, simulated.case)
    archive = tmp_path / f"{place}.zip"
    with zipfile.ZipFile(archive, "w") as packed:
        for path in sorted(folder.iterdir()):
            packed.write(path, path.name)
    added = page.request.post(f"/api/cases?place={place}", data=archive.read_bytes())
    page.goto(f"/jobs/{added.json()['id']}/spin")
    expect(page.get_by_role("heading", name="What the spin test shows")).to_be_visible(timeout=ANALYSED_MS)


def test_a_lost_support_is_seen_on_the_clock_at_its_corner(page: Page, tmp_path: Path) -> None:
    folder, packed = tmp_path / "case", tmp_path / "corners.zip"
    folder.mkdir()
    write_case_folder(folder, simulate_corners(layout="top_pulsator", faults=["suspension_off"], seed=12, strength=1.0))
    with zipfile.ZipFile(packed, "w") as archive:
        for file in folder.iterdir():
            archive.write(file, file.name)
    page.goto("/")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Import a case").click()
    chooser.value.set_files(packed)
    page.get_by_role("link", name="Spin 5 recordings").click()
    clock = page.get_by_role("img", name="Drum clock")
    expect(clock).to_have_accessible_name(re.compile("rear left corner goes up and down"), timeout=ANALYSED_MS)
    expect(page.get_by_text("Seen from above, front at the bottom")).to_be_visible()
    expect(page.get_by_text("acceleration-4.csv")).to_be_visible()


def test_a_renamed_photograph_is_refused_in_words(page: Page, tmp_path: Path) -> None:
    open_job(page)
    photo = tmp_path / "spin.wav"
    photo.write_bytes(b"\xff\xd8\xff\xe0 photograph")
    page.get_by_label("Recordings to add").set_input_files(photo)
    page.get_by_role("button", name="Add and analyse").click()
    expect(page.get_by_role("alert")).to_contain_text("no sound that can be read")
    expect(page.get_by_role("alert")).to_contain_text("Nothing was stored")


def test_a_log_without_names_is_asked_about_and_sent_with_the_answer(page: Page, files: Path) -> None:
    open_job(page)
    rows = (files / "spin.csv").read_text().split("\n", 1)[1]
    nameless = files / "nameless.csv"
    nameless.write_text(rows)
    page.get_by_label("Recordings to add").set_input_files(nameless)
    page.get_by_role("button", name="Add and analyse").click()
    asked = page.get_by_role("region", name="Which columns are the time and the acceleration?")
    expect(asked.get_by_role("status")).to_have_text("Say which column is the time.")
    send = asked.get_by_role("button", name="Send it with these names")
    expect(send).to_be_disabled()
    for place, meaning in enumerate(("time", "acceleration x", "acceleration y", "acceleration z"), start=1):
        asked.get_by_label(f"What is column {place}?").select_option(meaning)
    asked.get_by_role("radio", name="seconds", exact=True).click()
    asked.get_by_role("radio", name="m/s²").click()
    send.click()
    expect(page.get_by_role("link", name="nameless.csv")).to_be_visible(timeout=ANALYSED_MS)
    kept = page.request.get(page.get_by_role("link", name="nameless.csv").get_attribute("href") or "")
    assert kept.text() == "t_s,ax_m_s2,ay_m_s2,az_m_s2\n" + rows


def test_a_hand_check_moves_the_odds_and_can_be_taken_back(page: Page) -> None:
    open_job(page, told="Shakes")
    page.get_by_role("link", name="Hands").click()
    page.get_by_role("link", name="Look at each rod or spring seat").click()
    page.get_by_role("button", name="rear left").click()
    page.get_by_role("button", name="Keep and weigh it").click()
    page.get_by_role("link", name="Call").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("jumped off its seat", timeout=ANALYSED_MS)
    page.get_by_role("link", name="Hands").click()
    page.get_by_role("link", name="Look at each rod or spring seat").click()
    page.get_by_role("button", name="Take it back").click()
    page.get_by_role("link", name="Call").click()
    expect(page.get_by_role("heading", level=1)).not_to_contain_text("jumped off its seat", timeout=ANALYSED_MS)


def test_what_is_typed_survives_a_reload(page: Page) -> None:
    page.goto("/new")
    page.get_by_label("Where is the machine?").fill("Lock cottage 2")
    page.reload()
    expect(page.get_by_label("Where is the machine?")).to_have_value("Lock cottage 2")
    page.get_by_role("button", name="Open the job").click()
    page.get_by_role("radio", name="Top loader, pulsator").click()
    page.get_by_label("Age").fill("1")
    page.reload()
    expect(page.get_by_role("radio", name="Top loader, pulsator")).to_be_checked()
    expect(page.get_by_label("Age")).to_have_value("1")
