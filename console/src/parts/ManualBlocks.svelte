<script lang="ts">
	import type { Block } from '../../manual';
	import Self from './ManualBlocks.svelte';
	import ManualWords from './ManualWords.svelte';

	/** What a page of the manual is made of. The page's own title stands above it already. */
	const { blocks, inner = false }: { blocks: Block[]; inner?: boolean } = $props();
</script>

{#each blocks as block, n (n)}
	{#if block.kind === 'heading'}
		{#if block.level > 1}
			<svelte:element this={`h${String(Math.min(block.level, 4))}`} id={block.id} tabindex="-1">
				<ManualWords words={block.words} />
			</svelte:element>
		{/if}
	{:else if block.kind === 'words'}
		{#if inner && blocks.length === 1}<ManualWords words={block.words} />{:else}<p>
				<ManualWords words={block.words} />
			</p>{/if}
	{:else if block.kind === 'code'}
		<!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls, and the keyboard has to get there) -->
		<pre tabindex="0">{block.text}</pre>
	{:else if block.kind === 'list'}
		<svelte:element this={block.ordered ? 'ol' : 'ul'}>
			{#each block.items as item, i (i)}<li><Self blocks={item} inner /></li>{/each}
		</svelte:element>
	{:else}
		<!-- svelte-ignore a11y_no_noninteractive_tabindex (as above) -->
		<div class="wide" tabindex="0" role="group" aria-label="A table">
			<table>
				<thead
					><tr
						>{#each block.head as cell, c (c)}<th scope="col"><ManualWords words={cell} /></th>{/each}</tr
					></thead
				>
				<tbody>
					{#each block.rows as row, r (r)}
						<tr
							>{#each row as cell, c (c)}<td><ManualWords words={cell} /></td>{/each}</tr
						>
					{/each}
				</tbody>
			</table>
		</div>
	{/if}
{/each}

<style>
	h2,
	h3,
	h4 {
		margin: 1.6rem 0 0.4rem;
		scroll-margin-top: 1rem;
	}
	p,
	ul,
	ol {
		margin: 0.6rem 0;
		line-height: 1.55;
		overflow-wrap: anywhere;
	}
	ul,
	ol {
		padding-left: 1.3rem;
		list-style: revert;
	}
	li {
		margin: 0.25rem 0;
	}
	pre {
		overflow-x: auto;
		padding: 0.7rem 0.9rem;
		margin: 0.7rem 0;
		border: 1px solid var(--line);
		border-radius: 0.25rem;
		background: var(--card);
		font-size: 0.8125rem;
		line-height: 1.5;
	}
	.wide {
		overflow-x: auto;
		margin: 0.7rem 0;
	}
	table {
		border-collapse: collapse;
		font-size: 0.875rem;
	}
	th,
	td {
		text-align: left;
		vertical-align: top;
		padding: 0.35rem 0.9rem 0.35rem 0;
		border-bottom: 1px solid var(--line);
		overflow-wrap: anywhere;
		min-width: 5rem;
	}
</style>
