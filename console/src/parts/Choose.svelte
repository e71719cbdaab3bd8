<script lang="ts" module>
	export interface Choice {
		value: string;
		title: string;
	}
</script>

<script lang="ts">
	import { untrack } from 'svelte';

	/** One of many things the service knows: a plain list while they are few, a field that searches when they are not. */
	interface Given {
		label: string;
		value: string;
		ask: (q: string) => Promise<{ items: Choice[]; total: number }>;
		chosen: () => void;
		none: string;
		/** Raised when what the service knows has changed. */
		turn?: number;
	}
	let { label, value = $bindable(), ask, chosen, none, turn = 0 }: Given = $props();
	const FEW = 60;
	const id = $props.id();
	let choices: Choice[] = $state.raw([]);
	let total = $state(-1);
	let typing: ReturnType<typeof setTimeout> | undefined;

	$effect(() => {
		void turn;
		untrack(() => void look(''));
	});

	async function look(q: string): Promise<void> {
		const found = await ask(q);
		choices = found.items;
		if (!q) total = found.total;
	}
	function type(text: string): void {
		value = choices.some((c) => c.value === text) ? text : '';
		chosen();
		clearTimeout(typing);
		typing = setTimeout(() => void look(text), 200);
	}
</script>

<div>
	<label for={id}>{label}</label>
	{#if total === 0}
		<p class="quiet" id="{id}-none">{none}</p>
	{:else if total <= FEW}
		<select {id} class="field" bind:value onchange={chosen} disabled={total < 0}>
			<option value="" disabled>Choose…</option>
			{#each choices as choice (choice.value)}<option value={choice.value}>{choice.title}</option>{/each}
		</select>
	{:else}
		<input
			{id}
			class="field"
			list="{id}-list"
			{value}
			placeholder="Type a part of it"
			autocomplete="off"
			spellcheck="false"
			oninput={(event) => type(event.currentTarget.value)}
		/>
		<datalist id="{id}-list">
			{#each choices as choice (choice.value)}<option value={choice.value}>{choice.title}</option>{/each}
		</datalist>
	{/if}
</div>

<style>
	label {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
</style>
