// What keeps parts of a page up to date. Pages that begin with such parts load it themselves; on others it comes once
// the page is shown, or when something needs it.
export { default } from "htmx.org";
