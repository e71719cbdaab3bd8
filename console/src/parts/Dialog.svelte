<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A question in front of the page: its title, what it says, and the buttons that answer it. */
	interface Given {
		title: string;
		wide?: boolean;
		children: Snippet;
		ways: Snippet;
	}
	let { title, wide = false, children, ways }: Given = $props();
	const id = $props.id();
	let dialog: HTMLDialogElement | undefined = $state();

	export function open(): void {
		dialog?.showModal();
	}
	export function close(): void {
		dialog?.close();
	}
</script>

<dialog bind:this={dialog} class:wide aria-labelledby="{id}-title">
	<h2 id="{id}-title">{title}</h2>
	{@render children()}
	<div class="ways">{@render ways()}</div>
</dialog>

<style>
	dialog {
		margin: auto;
		max-width: min(30rem, 92vw);
		padding: 1.2rem 1.3rem;
		background: var(--card);
		color: var(--ink);
		border: 1px solid var(--edge);
		border-radius: var(--radius-container);
	}
	.wide {
		max-width: min(38rem, 92vw);
	}
	dialog[open] {
		display: grid;
		gap: 0.7rem;
	}
	dialog::backdrop {
		background: oklch(0.2 0.02 240 / 55%);
	}
	.ways {
		display: flex;
		flex-wrap: wrap;
		justify-content: flex-end;
		gap: 0.6rem;
	}
</style>
