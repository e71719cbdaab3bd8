<script lang="ts" module>
	export interface Choice {
		value: string;
		title: string;
	}
</script>

<script lang="ts">
	import { Combobox } from 'bits-ui';
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
		required?: boolean;
	}
	let { label, value = $bindable(), ask, chosen, none, turn = 0, required = false }: Given = $props();
	const FEW = 60;
	const PAUSE_MS = 150;
	const id = $props.id();
	let choices: Choice[] = $state.raw([]);
	let total = $state(-1);
	// What was asked for last, how many answer to it, and what of the chosen one is shown.
	let asked = $state('');
	let matching = $state(0);
	let title = $state('');
	let titled = '';
	let typing: ReturnType<typeof setTimeout> | undefined;

	$effect(() => {
		void turn;
		untrack(() => void look(''));
	});
	$effect(() => () => clearTimeout(typing));

	async function look(q: string): Promise<void> {
		asked = q;
		const found = await ask(q);
		// Somebody may have typed on meanwhile.
		if (q !== asked) return;
		[choices, matching] = [found.items, found.total];
		if (!q) total = found.total;
		if (titled !== value) name(value);
	}
	function name(taken: string): void {
		const found = choices.find((c) => c.value === taken);
		if (found) [title, titled] = [found.title, taken];
	}
	function type(text: string): void {
		clearTimeout(typing);
		typing = setTimeout(() => void look(text.trim()), PAUSE_MS);
	}
	function take(taken: string): void {
		if (taken) name(taken);
		chosen();
	}
	function closed(): void {
		// What was typed and not chosen is nothing: the field shows again what is chosen.
		clearTimeout(typing);
		const kept = title;
		title = '';
		queueMicrotask(() => (title = kept));
		void look('');
	}
</script>

<div>
	<label for={id}>{label}</label>
	{#if total === 0}
		<p class="quiet" id="{id}-none">{none}</p>
	{:else if total <= FEW}
		<select {id} class="field" bind:value onchange={chosen} disabled={total < 0} {required}>
			<option value="" disabled>Choose…</option>
			{#each choices as choice (choice.value)}<option value={choice.value}>{choice.title}</option>{/each}
		</select>
	{:else}
		<Combobox.Root
			type="single"
			bind:value
			allowDeselect={false}
			inputValue={title}
			onValueChange={take}
			onOpenChange={(open) => {
				if (!open) closed();
			}}
		>
			<Combobox.Input
				{id}
				class="field"
				placeholder="Type a part of it"
				autocomplete="off"
				spellcheck="false"
				{required}
				oninput={(event: Event & { currentTarget: HTMLInputElement }) => type(event.currentTarget.value)}
				onfocus={(event: FocusEvent & { currentTarget: HTMLInputElement }) => event.currentTarget.select()}
			/>
			<!-- Where it stands in the page: beside its field, within the same landmark. -->
			<Combobox.Portal disabled>
				<Combobox.Content class="choose-list" sideOffset={4}>
					<Combobox.Viewport>
						{#each choices as choice (choice.value)}
							<Combobox.Item class="choose-one" value={choice.value} label={choice.title}
								>{choice.title}</Combobox.Item
							>
						{:else}
							<p class="choose-rest">Nothing is called so.</p>
						{/each}
					</Combobox.Viewport>
					{#if matching > choices.length}
						<p class="choose-rest">{matching - choices.length} more: type more of the name.</p>
					{/if}
				</Combobox.Content>
			</Combobox.Portal>
		</Combobox.Root>
	{/if}
</div>

<style>
	label {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
	:global(.choose-list) {
		z-index: 40;
		width: var(--bits-combobox-anchor-width);
		max-height: min(22rem, var(--bits-combobox-content-available-height));
		overflow-y: auto;
		padding: 0.25rem;
		background: var(--card);
		color: var(--ink);
		border: 1px solid var(--line);
		border-radius: 0.25rem;
		box-shadow: 0 0.5rem 1.5rem rgb(0 0 0 / 0.18);
	}
	:global(.choose-one) {
		padding: 0.4rem 0.6rem;
		border-radius: 0.2rem;
		cursor: pointer;
	}
	:global(.choose-one[data-highlighted]) {
		background: var(--hint, rgb(128 110 80 / 0.18));
	}
	:global(.choose-one[data-selected]) {
		font-weight: 600;
	}
	:global(.choose-rest) {
		padding: 0.4rem 0.6rem;
		color: var(--soft);
		font-size: 0.875rem;
	}
</style>
