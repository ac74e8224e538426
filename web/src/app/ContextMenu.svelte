<script lang="ts">
  // The menu of the right button, at the pointer.
  import Check from '@lucide/svelte/icons/check';
  import { DropdownMenu } from 'bits-ui';
  import { commandOf, readable, shortcutOf } from '../commands';
  import { menuBox, menuLine, menuRow } from '../widgets/menuLook';
  import { contextMenu } from '../widgets/contextMenu.svelte';

  const items = $derived(
    (contextMenu.shown?.items ?? []).map((item) => {
      if (!item) return null;
      const command = item.command ? commandOf(item.command) : undefined;
      return {
        title: item.title ?? command?.short ?? command?.title ?? '',
        keys: command ? readable(shortcutOf(command)) : '',
        run: item.run ?? command?.run,
        checked: item.checked,
      };
    }),
  );
  const at = $derived(contextMenu.shown ?? { x: 0, y: 0 });
  const anchor = $derived({ getBoundingClientRect: () => DOMRect.fromRect({ x: at.x, y: at.y, width: 0, height: 0 }) });
</script>

{#if contextMenu.shown}
  {#key contextMenu.shown}
    <DropdownMenu.Root open onOpenChange={(on) => !on && contextMenu.close()}>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          class={menuBox}
          customAnchor={anchor}
          side="bottom"
          align="start"
          collisionPadding={4}
          preventScroll={false}
          aria-label="Commands"
          onCloseAutoFocus={(e) => (e.preventDefault(), contextMenu.giveBack())}
        >
          {#each items as item, i (i)}
            {#if item}
              <DropdownMenu.Item onSelect={() => item.run?.()}>
                {#snippet child({ props })}
                  <button
                    {...props}
                    class={menuRow}
                    role={item.checked === undefined ? 'menuitem' : 'menuitemradio'}
                    aria-checked={item.checked}
                    ><span class="flex items-center gap-2"
                      >{#if item.checked !== undefined}<span class="w-3.5"
                          >{#if item.checked}<Check size={14} />{/if}</span
                        >{/if}{item.title}</span
                    ><span class="text-xs text-base-content/70">{item.keys}</span></button
                  >
                {/snippet}
              </DropdownMenu.Item>
            {:else}<DropdownMenu.Separator class={menuLine} />{/if}
          {/each}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  {/key}
{/if}
