(() => {
  // Starts what takes longest beside the rest of the page: the engine, and the shot that will be shown.
  // The first picture needs no engine; it is only fetched until that is drawn, so that neither waits for the other.
  let begin;
  const begun = new Promise((done) => (begin = done));
  const engine = import('/engine/dotnet.js')
    .then(async ({ dotnet }) => {
      // The engine knows no clock; asking the browser for its time zone would take a tenth of a second.
      await dotnet.withEnvironmentVariable('TZ', 'UTC').download();
      await begun;
      return dotnet.create();
    })
    .then(({ getAssemblyExports }) => getAssemblyExports('Bradymotus.Engine.dll'));

  const get = async (url) => {
    const answer = await fetch(url);
    return answer.ok ? answer.json() : null;
  };
  const shots = get('/api/shots').catch(() => null);
  // The one that the address names, else the one that was open last in this browser.
  const ids = [location.hash.slice(1), localStorage.getItem('bradymotus.open')];
  const wanted = shots.then((list) => ids.map((id) => list?.find((s) => s.id === id)).find(Boolean) ?? list?.at(-1));
  const of = (part) => wanted.then((shot) => (shot ? get(`/api/shots/${shot.id}${part}`) : null)).catch(() => null);

  window.bradymotusBoot = { begin, engine, shots, opening: of('/opening'), document: of('') };
})();
