// Asks for what the page shows before the application's own scripts have run.
const asked = /^\/c\/([0-9a-f-]{36})(\/|$)/.exec(location.pathname);
const path = asked ? `/api/candidates/${asked[1]}` : location.pathname === "/" ? "/api/candidates" : null;
if (path) {
  const answer = fetch(path);
  answer.catch(() => undefined);
  window.ticksageEarly = { path, answer };
}
