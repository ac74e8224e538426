<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import { commandOf, readable, shortcutOf } from '../commands';
  import { contextMenu } from '../widgets/contextMenu.svelte';

  const items = $derived(
    (contextMenu.shown?.items ?? []).map((item) => {
      if (!item) return null;
      const command = item.command ? commandOf(item.command) : undefined;
      return {
        title: item.title ?? command?.title ?? '',
        keys: command ? readable(shortcutOf(command)) : '',
        run: item.run ?? command?.run,
        checked: item.checked,
      };
    }),
  );

  function place(menu: HTMLElement) {
    const { width, height } = menu.getBoundingClientRect();
    const { x, y } = contextMenu.shown!;
    menu.style.left = `${Math.max(4, Math.min(x, innerWidth - width - 4))}px`;
    menu.style.top = `${Math.max(4, Math.min(y, innerHeight - height - 4))}px`;
    menu.querySelector('button')?.focus();
  }

  function keydown(e: KeyboardEvent) {
    const buttons = [...(e.currentTarget as HTMLElement).querySelectorAll('button')];
    const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
    if (e.key === 'Escape') contextMenu.close();
    else if (e.key === 'ArrowDown') buttons[(at + 1) % buttons.length].focus();
    else if (e.key === 'ArrowUp') buttons[(at - 1 + buttons.length) % buttons.length].focus();
    else if (e.key !== 'Enter' && e.key !== ' ') return;
    if (e.key !== 'Enter' && e.key !== ' ') e.preventDefault();
    e.stopPropagation();
  }
</script>

{#if contextMenu.shown}
  <div
    class="fixed inset-0 z-40"
    role="presentation"
    onpointerdown={() => contextMenu.close()}
    oncontextmenu={(e) => (e.preventDefault(), contextMenu.close())}
  ></div>
  {#key contextMenu.shown}
    <div
      use:place
      class="fixed z-50 min-w-52 rounded-box border border-base-300 bg-base-200 p-1 shadow-xl"
      role="menu"
      tabindex="-1"
      aria-label="Commands"
      onkeydown={keydown}
    >
      {#each items as item, i (i)}
        {#if item}
          <button
            class="flex w-full items-center justify-between gap-6 rounded-field px-3 py-1 text-left text-[13px] hover:bg-base-300 focus:bg-base-300 focus:outline-none"
            role={item.checked === undefined ? 'menuitem' : 'menuitemradio'}
            aria-checked={item.checked}
            onclick={() => (contextMenu.close(), item.run?.())}
            ><span class="flex items-center gap-2"
              >{#if item.checked !== undefined}<span class="w-3.5"
                  >{#if item.checked}<Check size={14} />{/if}</span
                >{/if}{item.title}</span
            ><span class="text-xs text-base-content/70">{item.keys}</span></button
          >
        {:else}<div class="my-1 h-px bg-base-300" role="separator"></div>{/if}
      {/each}
    </div>
  {/key}
{/if}
