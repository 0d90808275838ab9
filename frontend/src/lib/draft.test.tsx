// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import { useDraft } from "./draft";

beforeEach(() => {
  localStorage.clear();
});

it("is kept before it is shown, and there again on the next page", () => {
  const first = renderHook(() => useDraft<number[]>("levels", []));
  act(() => {
    first.result.current[1]([3]);
    // The page may be gone before anything is drawn.
    expect(localStorage.getItem("levels")).toBe("[3]");
  });
  first.unmount();
  expect(renderHook(() => useDraft<number[]>("levels", [])).result.current[0]).toEqual([3]);
});

it("is gone once cleared", () => {
  const { result } = renderHook(() => useDraft("place", ""));
  act(() => {
    result.current[1]("Lock house");
  });
  act(() => {
    result.current[2]();
  });
  expect(renderHook(() => useDraft("place", "")).result.current[0]).toBe("");
});

it("stays on the page where the store is full, and is not read where it is damaged", () => {
  localStorage.setItem("damaged", "{");
  expect(renderHook(() => useDraft("damaged", "as new")).result.current[0]).toBe("as new");
  const full = vi.spyOn(Storage.prototype, "setItem").mockImplementation(() => {
    throw new DOMException("full", "QuotaExceededError");
  });
  const { result } = renderHook(() => useDraft("place", ""));
  act(() => {
    result.current[1]("Lock house");
  });
  expect(result.current[0]).toBe("Lock house");
  full.mockRestore();
});
