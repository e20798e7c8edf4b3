// What must happen in the browser at once. Everything that is true comes from the server.
import "./quiet.js";
import "./state.js";
import "./edits.js";
import "./fields.js";
import "./clipboard.js";
import "./dialogs.js";
import "./files.js";
import "./keys.js";
import "./ledger.js";
import "./find.js";
import "./views.js";
import "./reference.js";
import "./passkeys.js";
import "./sheet.js";
import "./mark.js";
import "./behind.js";
import "./trying.js";
import "./place.js";
import "./map.js";
import "./bench.js";
import "./now.js";
import "./steps.js";
import "./routes.js";
import "./kept.js";

// Days begin at midnight where somebody is; pages of figures say in which zone.
try {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  if (zone && !document.cookie.split("; ").includes("zone=" + zone)) document.cookie = "zone=" + zone + "; path=/; max-age=31536000; samesite=lax";
} catch { /* then days are those of UTC */ }
