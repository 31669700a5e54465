import * as z from "zod";

// Checks are compiled with `new Function` where that is allowed; the page's policy does not allow it, and even the
// attempt is reported as a violation.
z.config({ jitless: true });
