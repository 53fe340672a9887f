import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// Run before the tests of each file, which share what they import.

// A slow machine is waited for: what is to be seen comes, or the test fails after that.
configure({ asyncUtilTimeout: 8000 });

// jsdom lays nothing out: lists have a height all the same, so that rows are drawn.
Object.defineProperty(HTMLElement.prototype, "clientHeight", { configurable: true, get: () => 600 });

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
  sessionStorage.clear();
});
