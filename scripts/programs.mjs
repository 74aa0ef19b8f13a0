// Installs the programs of Debian's that the tests run. It needs no packages: npm test runs it while those are installed.
import { ensureChromium, ensureMidicsv } from "./run.mjs";

ensureChromium();
ensureMidicsv();
