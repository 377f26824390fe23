import { defineConfig } from "@playwright/test";
import tests from "./playwright.config";

// Speeds are told apart from what must work: a slow machine fails these, and only these.
export default defineConfig({ ...tests, testDir: "speed", retries: 0 });
