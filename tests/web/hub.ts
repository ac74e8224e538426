/** The live connection's package with a connection of straw in it. */
export function liveWith(hub: unknown) {
  const builder = {
    withUrl: () => builder,
    withAutomaticReconnect: () => builder,
    configureLogging: () => builder,
    build: () => hub,
  };
  // Returned from a constructor, an object takes the place of what was made.
  return {
    HubConnectionBuilder: function () {
      return builder;
    },
    LogLevel: { None: 6 },
  };
}
