// Asks for what the page shows before the application's own scripts have run.
const asked = /^\/c\/([0-9a-f-]{36})(\/|$)(walk-round)?/.exec(location.pathname);
const candidate = asked && `/api/candidates/${asked[1]}`;
const paths = candidate ? [`${candidate}?part=road`] : location.pathname === "/" ? ["/api/candidates"] : [];
if (candidate && asked[3]) paths.push(`${candidate}/walk-round`);
window.ticksageEarly = Object.fromEntries(paths.map((path) => [path, fetch(path)]));
