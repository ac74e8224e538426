<script lang="ts">
  // The direction of a sun from a place, a date and a time.
  import type { NodeView } from '../engine/engine';
  import NumberField from '../widgets/NumberField.svelte';
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';

  let { node }: { node: NodeView } = $props();

  let open = $state(false);
  // As it was left, whichever sun it was.
  const place = preferences.sunPlace;
  let said = $state('');

  function set() {
    const { latitude, longitude, date, time, zone } = place;
    const [hours, minutes] = time.split(':').map(Number);
    const at = new Date(`${date}T00:00:00Z`);
    at.setTime(at.getTime() + (hours - zone) * 3_600_000 + minutes * 60_000);
    if (Number.isNaN(at.getTime())) return void (said = 'Give a date and a time.');
    try {
      const [x, y, z, altitude] = session.shot.engine!.sunAt(latitude, longitude, at);
      const values = { x, y, z };
      session.shot.pose(
        Object.entries(values).map(([axis, value]) => ({ address: `${node.id}/transform.rotate.${axis}`, value })),
        true,
      );
      const height = `${Math.abs(altitude).toFixed(1)}°`;
      said = altitude < 0 ? `It stands ${height} below the horizon.` : `It stands ${height} high.`;
    } catch (e) {
      said = (e as Error).message;
    }
  }
</script>

<details class="px-3 pt-3 text-xs" bind:open>
  <summary class="cursor-pointer font-semibold">From place and time</summary>
  <div class="grid grid-cols-[6rem_1fr] items-center gap-1 pt-1">
    <label for="sun-latitude">Latitude</label>
    <NumberField
      id="sun-latitude"
      label="Latitude"
      unit="°"
      least={-90}
      most={90}
      value={place.latitude}
      oncommit={(_, to) => (place.latitude = to)}
    />
    <label for="sun-longitude">Longitude</label>
    <NumberField
      id="sun-longitude"
      label="Longitude"
      unit="°"
      least={-180}
      most={180}
      value={place.longitude}
      oncommit={(_, to) => (place.longitude = to)}
    />
    <label for="sun-date">Date</label>
    <input id="sun-date" type="date" class="input input-xs" bind:value={place.date} />
    <label for="sun-time">Time</label>
    <input id="sun-time" type="time" class="input input-xs" bind:value={place.time} />
    <label for="sun-zone">Hours from UTC</label>
    <NumberField
      id="sun-zone"
      label="Hours from UTC"
      step={0.025}
      least={-14}
      most={14}
      value={place.zone}
      oncommit={(_, to) => (place.zone = to)}
    />
    <span></span>
    <button class="btn btn-xs" title="Turns the sun; north is −Z, east +X" onclick={set}>Set the direction</button>
  </div>
  {#if said}<p class="pt-1" role="status">{said}</p>{/if}
</details>
