"""Hands that the phone lends: it hears a plucked belt and feels a pushed tub, in real Chromium with fake senses."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import numpy as np
import soundfile
from playwright.sync_api import Playwright, expect
from scipy import signal as sps

from tests.browser.test_guides import sent
from tests.core.signals.drive.test_belt_pluck import RATE, plucked
from tests.diaries import machine
from tests.support import RunningServer, chromium
from tests.web.test_hearing import felt
from tests.web.visits import open_job

# A phone's motion as its browser tells it, in its own time.
FEEL = """rows => {
  const begin = performance.now();
  const tell = k => {
    if (k >= rows.length) return;
    const [t, x, y, z] = rows[k];
    setTimeout(() => {
      const event = new Event("devicemotion");
      Object.defineProperty(event, "accelerationIncludingGravity", { value: { x, y, z } });
      window.dispatchEvent(event);
      tell(k + 1);
    }, Math.max(0, begin + 1000 * t - performance.now()));
  };
  tell(0);
}"""


def test_a_plucked_belt_is_heard_and_a_pushed_tub_felt(
    driver: Playwright, server: RunningServer, api: httpx.Client, tmp_path: Path
) -> None:
    once = plucked(88.0, np.random.default_rng(2)).samples
    # Again and again, so that whenever the page listens a whole pluck is in it.
    sound = sps.resample_poly(np.tile(once[: int(1.5 * RATE)], 6), 441, 160)
    soundfile.write(tmp_path / "mic.wav", sound, 44_100)
    job = open_job(api, machine(layout="front_belt"))
    with chromium(driver, microphone=tmp_path / "mic.wav") as browser:
        context = browser.new_context(
            base_url=server.url, viewport={"width": 390, "height": 844}, has_touch=True, locale="en-GB"
        )
        page = context.new_page()
        page.goto(f"/jobs/{job}/hands/belt_pluck")
        page.get_by_role("button", name="Hear it").tap()
        heard = page.get_by_role("status").filter(has_text="Heard")
        expect(heard).to_be_visible(timeout=20_000)
        pitch = float(re.search(r"Heard ([\d.]+) Hz", heard.inner_text())[1])  # type: ignore[index]
        assert abs(pitch / 88.0 - 1.0) < 0.03
        expect(page.get_by_role("button", name="Pitch of the span")).to_contain_text(f"{pitch:.1f}")

        page.goto(f"/jobs/{job}/hands/bounce")
        page.get_by_role("button", name=re.compile("entre")).first.tap()
        page.get_by_role("button", name="Or lay the phone on the tub").tap()
        expect(page.get_by_role("button", name=re.compile("Push once"))).to_be_visible()
        page.evaluate(FEEL, felt(0.1))
        told = page.get_by_role("status").filter(has_text="Felt")
        expect(told).to_be_visible(timeout=20_000)
        swings = float(re.search(r"Felt ([\d.]+) swings", told.inner_text())[1])  # type: ignore[index]
        assert 3.4 < swings < 6.5
        page.get_by_role("button", name="Keep and weigh it").tap()
        expect(page.get_by_role("button", name=re.compile("^Take it back"))).to_be_visible()
        [kept] = sent(api, job, "checks")
        context.close()
    assert kept["values"]["swings"] == swings
