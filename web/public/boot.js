(() => {
  // Starts what takes longest beside the rest of the page: the engine, and the shot that will be shown.
  const engine = import('/engine/dotnet.js')
    .then(({ dotnet }) => dotnet.create())
    .then(({ getAssemblyExports }) => getAssemblyExports('Bradymotus.Engine.dll'));

  const get = async (url) => {
    const answer = await fetch(url);
    return answer.ok ? answer.json() : null;
  };
  const shots = get('/api/shots').catch(() => null);
  const document = shots
    .then((list) => {
      const wanted = list?.find((s) => s.id === location.hash.slice(1)) ?? list?.at(-1);
      return wanted ? get(`/api/shots/${wanted.id}`) : null;
    })
    .catch(() => null);

  window.bradymotusBoot = { engine, shots, document };
})();
