<script lang="ts">
	import type { FaultBody } from '../api/calls';

	let { fault, again }: { fault: FaultBody; again?: () => void } = $props();
	const faults = $derived(
		Array.isArray(fault.context?.faults) ? (fault.context.faults as unknown[]).map(String) : [],
	);
</script>

<div class="fault" role="alert">
	{#if faults.length > 1}
		<ul>
			{#each faults as one (one)}<li>{one}</li>{/each}
		</ul>
	{:else}
		<p class="said">{fault.message}</p>
	{/if}
	{#if fault.hint}<p class="hint">{fault.hint}</p>{/if}
	{#if again}<button class="btn btn-small btn-lesser" type="button" onclick={again}>Try again</button>{/if}
</div>

<style>
	.fault {
		border-left: 4px solid var(--fail);
		background: color-mix(in oklab, var(--fail) 7%, var(--card));
		padding: 0.6rem 0.9rem;
		overflow-wrap: anywhere;
	}
	.said {
		font-weight: 620;
	}
	.hint {
		color: var(--soft);
		margin-top: 0.15rem;
	}
	.btn {
		margin-top: 0.5rem;
	}
	ul {
		list-style: disc;
		padding-left: 1.1rem;
	}
</style>
