<!-- What changes from this release to another one: what it needs, and which files. -->
<script lang="ts">
	import { untrack } from 'svelte';
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import Choose, { type Choice } from './Choose.svelte';
	import Fault from './Fault.svelte';

	const { release }: { release: Schemas['ReleaseOut'] } = $props();
	let chosen = $state('');
	let found = $state.raw<Schemas['ComparisonOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let turn = $state(0);
	$effect(() => {
		void release;
		[chosen, found] = ['', null];
		turn = untrack(() => turn) + 1;
	});

	async function others(q: string): Promise<{ items: Choice[]; total: number }> {
		try {
			const all = await done(
				api.GET('/api/v1/releases', { params: { query: { q, limit: 60, sort: 'name' } } }),
			);
			const own = await done(
				api.GET('/api/v1/releases', { params: { query: { q: q || release.name, limit: 60, sort: 'name' } } }),
			);
			// Other versions of the same application are what people compare.
			const same = own.items.filter((x) => x.name === release.name);
			const rest = all.items.filter((x) => x.name !== release.name);
			const items = [...same, ...rest]
				.filter((one) => one.sha256 !== release.sha256)
				.map((one) => ({ value: one.sha256, title: `${one.name} ${one.version}`.trim() }));
			return { items, total: q ? all.total : all.total - 1 };
		} catch (reason) {
			fault = faultOf(reason);
			return { items: [], total: 0 };
		}
	}

	async function compare(): Promise<void> {
		found = null;
		if (!chosen) return;
		try {
			const params = { path: { ref: release.sha256 }, query: { other: chosen } };
			found = await done(api.GET('/api/v1/releases/{ref}/compare', { params }));
			fault = null;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	const groups = $derived(
		found
			? ([
					['added', found.added, found.added_count],
					['changed', found.changed, found.changed_count],
					['removed', found.removed, found.removed_count],
				] as const)
			: [],
	);
</script>

<section class="compare card-paper" aria-labelledby="compare">
	<h2 id="compare">Beside another release</h2>
	{#if fault}<Fault {fault} />{/if}
	<div class="choice">
		<Choose
			label="Another release"
			bind:value={chosen}
			ask={others}
			chosen={() => void compare()}
			none="There is no other release on the shelf."
			{turn}
		/>
	</div>
	{#if found}
		<p>
			From {found.before} to {found.after}: {found.added_count} files added, {found.changed_count} changed,
			{found.removed_count} removed, {found.same} the same.
		</p>
		{#if found.needs.length}
			<ul class="needs">
				{#each found.needs as need (need.what)}
					<li>
						<span class="what">{need.what}</span>
						<span>{need.before || 'nothing'} → {need.after || 'nothing'}</span>
					</li>
				{/each}
			</ul>
		{:else}<p class="quiet">It needs the same as before.</p>{/if}
		{#each groups as [word, paths, count] (word)}
			{#if count}
				<details>
					<summary>{count} {word}</summary>
					<ul class="paths small">
						{#each paths as path (path)}<li class="code">{path}</li>{/each}
						{#if count > paths.length}<li class="quiet">and {count - paths.length} more</li>{/if}
					</ul>
				</details>
			{/if}
		{/each}
	{/if}
</section>

<style>
	.compare {
		margin-top: 1rem;
		display: grid;
		gap: 0.6rem;
	}
	.choice {
		max-width: 24rem;
	}
	.needs li {
		display: grid;
		grid-template-columns: minmax(8rem, max-content) minmax(0, 1fr);
		gap: 0.2rem 1rem;
		overflow-wrap: anywhere;
	}
	.what {
		color: var(--soft);
	}
	.paths {
		max-height: 16rem;
		overflow: auto;
		overflow-wrap: anywhere;
		margin-top: 0.3rem;
	}
	@media (max-width: 480px) {
		.needs li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
