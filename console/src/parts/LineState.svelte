<script lang="ts">
	import type { LineState } from '../state/live.svelte';

	/** Says when the live line is down; nothing while it is well. */
	let { state: line }: { state: LineState } = $props();
</script>

<div aria-live="polite">
	{#if line === 'down'}
		<p class="down">
			<strong>The line to the service is down.</strong> What is shown may be old; trying again. Jobs go on without
			this page.
		</p>
	{/if}
</div>

<style>
	.down {
		border-left: 4px solid var(--heed);
		background: color-mix(in oklab, var(--heed) 9%, var(--card));
		padding: 0.5rem 0.9rem;
		margin-bottom: 1rem;
	}
</style>
