<script lang="ts">
  import CircleHelp from '@lucide/svelte/icons/circle-help';
  import HistoryIcon from '@lucide/svelte/icons/history';
  import Activity from '@lucide/svelte/icons/activity';
  import Moon from '@lucide/svelte/icons/moon';
  import Redo2 from '@lucide/svelte/icons/redo-2';
  import Search from '@lucide/svelte/icons/search';
  import Sun from '@lucide/svelte/icons/sun';
  import Undo2 from '@lucide/svelte/icons/undo-2';
  import { onMount } from 'svelte';
  import { Toaster } from 'svelte-sonner';
  import ContextMenu from './ContextMenu.svelte';
  import CurveTool from '../curves/CurveTool.svelte';
  import CommandSearch from './CommandSearch.svelte';
  import Findings from '../checks/Findings.svelte';
  import Help from './Help.svelte';
  import History from '../shots/History.svelte';
  import ImportReport from '../shots/ImportReport.svelte';
  import Library from '../shots/Library.svelte';
  import WorkStrip from '../widgets/WorkStrip.svelte';
  import ShotSettings from '../shots/ShotSettings.svelte';
  import DeliverPhase from './DeliverPhase.svelte';
  import Workspace from './Workspace.svelte';
  import { run, shortcutOf, commands, tip } from '../commands';
  import { importFiles } from '../shots/import';
  import { keepPreferences, preferences } from '../stores/preferences.svelte';
  import { session, type Phase } from '../stores/session.svelte';
  import { keepPlace, placeNow, type Place } from '../stores/whereOneWas';
  import { listen } from '../commands/shortcuts';
  import { ui, type Part } from '../stores/ui.svelte';

  let problem = $state('');
  let dropping = $state(false);
  keepPreferences();

  const phases: { id: Phase; label: string; hint: string }[] = [
    { id: 'set', label: 'Set', hint: 'build the scene, light it, frame it' },
    { id: 'block', label: 'Block', hint: 'poses and timing' },
    { id: 'polish', label: 'Polish', hint: 'curves, cycles, easing' },
    { id: 'deliver', label: 'Deliver', hint: 'test, render, review' },
  ];
  const saved = $derived(
    !session.ready && !problem
      ? 'Starting…'
      : session.saveState === 'saved'
        ? 'Saved'
        : session.saveState === 'saving'
          ? 'Saving…'
          : `Server not reached: ${session.unsaved} ${session.unsaved === 1 ? 'change' : 'changes'} kept in this browser`,
  );

  onMount(() => {
    void (async () => {
      try {
        await session.start();
        if (!session.shotId) ui.dialog = 'library';
      } catch (e) {
        problem = (e as Error).message;
      }
    })();
    Object.assign(window, { bradymotus: session });
  });

  // Changed shortcuts take effect at once.
  $effect(() => {
    void commands.map(shortcutOf);
    return session.ready ? listen() : undefined;
  });

  // Where one is in the shot is kept: a moment after it has changed, and when the page goes. While it plays, the frame is not worth it.
  let kept: { shot: string; place: Place } | null = null;
  function keepNow() {
    if (kept) keepPlace(kept.shot, kept.place);
    kept = null;
  }
  $effect(() => {
    const shot = session.shotId;
    if (!shot || !session.ready || session.player.playing) return;
    kept = { shot, place: placeNow(session) };
    const later = setTimeout(keepNow, 400);
    return () => {
      clearTimeout(later);
      // Another shot must not get it.
      if (kept && kept.shot !== session.shotId) keepNow();
    };
  });

  // What has the focus is where one has pressed, or gone by keyboard, last; what was large comes first in a phase.
  $effect(() => {
    ui.part = session.phase === 'polish' ? 'tracks' : 'stage';
  });
  function enter({ target }: Event) {
    const part = target instanceof Element && target.closest<HTMLElement>('[data-part]')?.dataset.part;
    if (part) ui.part = part as Part;
  }

  async function drop(e: DragEvent) {
    dropping = false;
    const files = [...(e.dataTransfer?.files ?? [])];
    if (files.length === 0 || e.defaultPrevented) return;
    e.preventDefault();
    try {
      await importFiles(files);
    } catch (error) {
      session.messages.say((error as Error).message);
    }
  }
</script>

<!-- A file is taken wherever it is dropped, over a dialog too; else the browser would open it. -->
<svelte:window
  onpagehide={keepNow}
  onbeforeunload={(e) => session.hasUnsaved && e.preventDefault()}
  onpointerdowncapture={enter}
  onfocusincapture={enter}
  ondragend={() => (dropping = false)}
  ondragover={(e) => e.dataTransfer?.types.includes('Files') && e.preventDefault()}
  ondrop={drop}
/>

<div
  class="relative flex h-full flex-col bg-base-100 text-base-content"
  role="presentation"
  inert={!session.ready && !problem}
  data-focus={ui.part}
  ondragover={(e) => {
    if (e.dataTransfer?.types.includes('Files')) {
      e.preventDefault();
      dropping = true;
    }
  }}
  ondragleave={(e) => !e.relatedTarget && (dropping = false)}
>
  <header class="flex h-11 shrink-0 items-center gap-2 border-b border-base-300 bg-base-200 px-3">
    <span class="flex items-center gap-2 pr-1 font-semibold tracking-tight"
      ><img src="/icon.svg" alt="" class="h-6 w-6" /><span class="max-[1100px]:hidden">Bradymotus</span></span
    >
    <button class="btn btn-ghost btn-sm max-w-52" title={tip('library')} onclick={() => run('library')}
      ><span class="truncate">{session.shot.scene.name || 'Shots'}</span></button
    >
    <nav class="join mx-2" aria-label="Phases">
      {#each phases as p (p.id)}
        <button
          class="btn join-item btn-sm {session.phase === p.id ? 'btn-primary' : 'btn-neutral'}"
          aria-current={session.phase === p.id ? 'page' : undefined}
          title={tip(`phase.${p.id}`, `${p.label}: ${p.hint}`)}
          onclick={() => (session.phase = p.id)}>{p.label}</button
        >
      {/each}
    </nav>
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="Undo"
      title={tip(
        'undo',
        session.shot.history?.undoLabel ? `Undo: ${session.shot.history.undoLabel}` : 'Nothing to undo',
      )}
      disabled={session.shot.history?.undoLabel == null}
      onclick={() => run('undo')}><Undo2 size={16} /></button
    >
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="Redo"
      title={tip(
        'redo',
        session.shot.history?.redoLabel ? `Redo: ${session.shot.history.redoLabel}` : 'Nothing to redo',
      )}
      disabled={session.shot.history?.redoLabel == null}
      onclick={() => run('redo')}><Redo2 size={16} /></button
    >
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="History"
      title={tip('history')}
      aria-pressed={ui.dialog === 'history'}
      onclick={() => run('history')}><HistoryIcon size={16} /></button
    >
    <span
      class="text-xs {session.saveState === 'waiting' ? 'font-semibold text-error' : 'text-base-content/75'}"
      role="status"
      data-testid="saved">{session.shotId ? saved : ''}</span
    >
    <span class="grow"></span>
    <button
      class="btn btn-sm {ui.dialog === 'findings' ? 'btn-primary' : 'btn-ghost'}"
      title={tip('findings')}
      aria-pressed={ui.dialog === 'findings'}
      onclick={() => run('findings')}
      ><Activity size={16} />{session.findings.list.length === 0
        ? 'No findings'
        : session.findings.list.length === 1
          ? '1 finding'
          : `${session.findings.list.length} findings`}</button
    >
    <button
      class="btn justify-start font-normal btn-sm min-[1101px]:w-44"
      aria-label="Search for a command"
      title={tip('search')}
      onclick={() => run('search')}
      ><Search size={14} /><span class="max-[1100px]:hidden">Search for a command</span></button
    >
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="Theme"
      title="Theme: {preferences.theme}"
      onclick={() => run('theme')}
      >{#if preferences.theme === 'ink'}<Moon size={16} />{:else}<Sun size={16} />{/if}</button
    >
    <button class="btn btn-square btn-ghost btn-sm" aria-label="Help" title={tip('help')} onclick={() => run('help')}
      ><CircleHelp size={16} /></button
    >
  </header>

  {#if problem}
    <div class="grid grow place-items-center p-8"><p class="max-w-md" role="alert">{problem}</p></div>
  {:else if !session.ready && !session.shotId}
    <div class="grid grow place-items-center"><span class="loading loading-dots" aria-label="Starting"></span></div>
  {:else if !session.shotId}
    <div class="grid grow place-items-center p-8 text-center">
      <div>
        <p class="pb-3">No shot is open.</p>
        <button class="btn btn-primary" onclick={() => run('library')}>Open or make one</button>
      </div>
    </div>
  {:else}
    <main class="relative flex min-h-0 grow flex-col">
      {#if session.phase === 'deliver'}<DeliverPhase />{:else}<Workspace />{/if}
      {#if ui.curveTool && session.ready}<CurveTool />{/if}
      {#if ui.dialog === 'history'}<History />{:else if ui.dialog === 'findings'}<Findings />{/if}
    </main>
  {/if}

  <ContextMenu />
  {#if dropping}<div
      class="pointer-events-none absolute inset-0 z-50 grid place-items-center bg-base-100/80 text-lg font-semibold"
    >
      Drop a shot to open it, or a model to add it to this shot
    </div>{/if}
</div>

{#if ui.dialog === 'search'}<CommandSearch />{:else if ui.dialog === 'help'}<Help
  />{:else if ui.dialog === 'library'}<Library />{:else if ui.dialog === 'shot'}<ShotSettings
  />{:else if ui.dialog === 'import'}<ImportReport />{/if}

<!-- Above dialogs too: what was refused is read, what can be undone is, what takes its time is cancelled. -->
<div data-above-dialogs>
  <WorkStrip />
  <Toaster
    position="bottom-center"
    offset={{ bottom: 56 }}
    visibleToasts={3}
    expand
    containerAriaLabel="Messages"
    toastOptions={{
      unstyled: true,
      classes: {
        toast:
          'flex w-full items-center gap-3 rounded-box border border-base-300 bg-base-200 px-3 py-2 text-sm text-base-content shadow-xl',
        title: 'grow',
        actionButton: 'btn btn-primary btn-xs',
      },
    }}
  />
</div>
