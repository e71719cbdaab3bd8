<script lang="ts">
	import manual from 'virtual:manual';
	import { tick } from 'svelte';
	import Head from '../parts/Head.svelte';
	import ManualBlocks from '../parts/ManualBlocks.svelte';
	import { MOST_HITS, search, sections } from '../lib/manual';
	import { p, route } from '../router';

	/** The documentation: its kinds and pages, one of them, or what was found in all of them. */
	const name = $derived(String((route.params as Record<string, string>).name ?? ''));
	const leaf = $derived(manual.find((one) => one.name === name));
	const kinds = [...new Set(manual.map((one) => one.kind))];
	let wanted = $state('');
	const hits = $derived(search(manual, wanted));
	const places = $derived((leaf ? sections(leaf.blocks) : []).filter((s) => s.id && s.title !== leaf?.title));

	// The part that an address names is gone to once the page stands; so is a link within it.
	$effect(() => {
		const wish = decodeURIComponent(location.hash.slice(1));
		void name;
		void tick().then(() => {
			const place = wish && document.getElementById(wish);
			if (place) place.scrollIntoView();
			else window.scrollTo(0, 0);
		});
	});
</script>

<Head
	title={wanted.trim() ? 'Found in the manual' : (leaf?.title ?? 'Manual')}
	above={leaf || wanted.trim() ? 'Manual' : ''}
	up={p('/manual')}
/>
<div class="manual">
	<nav class="leaves" aria-label="The manual's pages">
		<label class="find">
			<span>Search</span>
			<input class="field" type="search" bind:value={wanted} placeholder="prefix, undo, licence…" />
		</label>
		{#each kinds as kind (kind)}
			<p class="kind">{kind}</p>
			<ul>
				{#each manual.filter((one) => one.kind === kind) as one (one.name)}
					<li>
						<a
							href={`/manual/${one.name}`}
							aria-current={one.name === name ? 'page' : undefined}
							onclick={() => (wanted = '')}>{one.title}</a
						>
					</li>
				{/each}
			</ul>
		{/each}
	</nav>
	<div class="leaf" aria-live="polite">
		{#if wanted.trim()}
			<p class="quiet">
				{hits.length === 0
					? `Nothing in the manual has “${wanted.trim()}”. A shorter word finds more.`
					: `${String(hits.length)}${hits.length === MOST_HITS ? ' or more' : ''} places`}
			</p>
			<ul class="hits">
				{#each hits as hit (hit.leaf.name + hit.id)}
					<li>
						<a href={`/manual/${hit.leaf.name}#${hit.id}`} onclick={() => (wanted = '')}>{hit.title}</a>
						{#if hit.title !== hit.leaf.title}<span class="quiet small">{hit.leaf.title}</span>{/if}
						<p class="small">{hit.around}</p>
					</li>
				{/each}
			</ul>
		{:else if leaf}
			{#if places.length > 2 && places.length < 30}
				<ul class="places">
					{#each places as place (place.id)}<li><a href={`#${place.id}`}>{place.title}</a></li>{/each}
				</ul>
			{/if}
			<ManualBlocks blocks={leaf.blocks} />
		{:else if name}
			<p>The manual has no page of that name.</p>
		{:else}
			<p>
				What High Shelf does, told in four kinds: a <a href="/manual/tour">tour</a> to see what it is,
				<a href="/manual/howto">how to</a>
				do what you have in mind, a reference of <a href="/manual/commands">commands</a> and
				<a href="/manual/errors">errors</a>, and why it is so. The API describes itself at
				<a href="/reference" data-sveltekit-reload rel="external">/reference</a>.
			</p>
		{/if}
	</div>
</div>

<style>
	.manual {
		display: grid;
		grid-template-columns: minmax(11rem, 15rem) minmax(0, 1fr);
		gap: 1.5rem 2.5rem;
		align-items: start;
	}
	.leaves {
		position: sticky;
		top: 1rem;
		max-height: calc(100vh - 2rem);
		overflow-y: auto;
		padding: 0 4px 4px;
		margin: 0 -4px;
	}
	.find span {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
	.kind {
		margin: 1rem 0 0.2rem;
		font-size: 0.8125rem;
		color: var(--soft);
		font-weight: 600;
	}
	.leaves li {
		margin: 0.15rem 0;
	}
	.leaves a[aria-current] {
		font-weight: 600;
		text-decoration: none;
	}
	.leaf {
		max-width: 52rem;
		min-width: 0;
	}
	.places {
		display: flex;
		flex-wrap: wrap;
		gap: 0.3rem 1.1rem;
		padding-bottom: 0.8rem;
		border-bottom: 1px solid var(--line);
		font-size: 0.875rem;
	}
	.hits li {
		margin: 0.9rem 0;
	}
	@media (max-width: 46rem) {
		.manual {
			grid-template-columns: minmax(0, 1fr);
		}
		.leaves {
			position: static;
			max-height: none;
		}
	}
</style>
