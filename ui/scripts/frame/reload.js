// Reloads the page when an interface file has changed, or when the server has come back. It is loaded only while the
// program is being worked on (make dev).

let here = false;
const line = new EventSource("/develop/changes");
line.addEventListener("here", () => {
  if (here) location.reload(); // the server was built anew
  here = true;
});
line.addEventListener("changed", () => location.reload());
