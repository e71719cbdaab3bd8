<script lang="ts">
	import { faultOf, type FaultBody } from '../api/calls';
	import Dialog from './Dialog.svelte';
	import Fault from './Fault.svelte';

	/** Asks once more before something that cannot be called back. */
	interface Given {
		title: string;
		text: string;
		word: string;
		act: () => Promise<void>;
	}
	let { title, text, word, act }: Given = $props();
	let dialog: Dialog | undefined = $state();
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);

	export function ask(): void {
		fault = null;
		dialog?.open();
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

<Dialog bind:this={dialog} {title}>
	<p>{text}</p>
	{#if fault}<Fault {fault} />{/if}
	{#snippet ways()}
		<button class="btn btn-lesser" type="button" onclick={() => dialog?.close()}>Leave it</button>
		<button class="btn btn-act" type="button" disabled={busy} onclick={() => void go()}
			>{busy ? 'One moment…' : word}</button
		>
	{/snippet}
</Dialog>
