// What must happen in the browser at once. Everything that is true comes from the server.
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
import "./trying.js";
import "./place.js";
import "./map.js";
