import { z } from "zod";

// The page's security policy forbids eval, and Zod's probe for it would count as a violation. The setting is read when a
// schema is made, so that every schema comes from here.
z.config({ jitless: true });

export { z };
