<script lang="ts">
	import { faultOf, type FaultBody } from '../api/calls';
	import Fault from './Fault.svelte';

	/** Asks once more before something that cannot be called back. */
	interface Given {
		title: string;
		text: string;
		word: string;
		act: () => Promise<void>;
	}
	let { title, text, word, act }: Given = $props();
	const id = $props.id();
	let dialog: HTMLDialogElement | undefined = $state();
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);

	export function ask(): void {
		fault = null;
		dialog?.showModal();
	}

	async function go(): Promise<void> {
		busy = true;
		try {
			await act();
			dialog?.close();
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<dialog bind:this={dialog} aria-labelledby="{id}-title">
	<h2 id="{id}-title">{title}</h2>
	<p>{text}</p>
	{#if fault}<Fault {fault} />{/if}
	<div class="ways">
		<button class="btn btn-lesser" type="button" onclick={() => dialog?.close()}>Leave it</button>
		<button class="btn btn-act" type="button" disabled={busy} onclick={() => void go()}
			>{busy ? 'One moment…' : word}</button
		>
	</div>
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
