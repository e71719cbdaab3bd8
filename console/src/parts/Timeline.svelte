<script lang="ts">
	import { ABOUT, STATE_WORDS, type Leg } from '../lib/legs';
	import { bytes, lasted, timeOf } from '../lib/say';

	/** The seven legs, one below the other as on a tide gauge; place and database stand side by side, as they run. */
	let { legs, now, kind }: { legs: Leg[]; now: number; kind: string } = $props();

	const took = (leg: Leg): string =>
		leg.startedAt && leg.state !== 'to-come' && leg.state !== 'not-reached'
			? lasted((leg.endedAt ? new Date(leg.endedAt).getTime() : now) - new Date(leg.startedAt).getTime())
			: '';
	const left = (leg: Leg): string => {
		const going = leg.progress;
		if (!going || going.unit !== 'bytes' || going.rate <= 0) return '';
		return `${bytes(going.rate)}/s, ${lasted(((going.of - going.done) / going.rate) * 1000)} left`;
	};
	const SIGNS: Record<string, string> = { error: '✕', undo: '↶', question: '?', answer: '›', cancelled: '■' };
</script>

<ol>
	{#each legs as leg (leg.name)}
		<li
			class={leg.state}
			class:beside={kind === 'install' && (leg.name === 'place' || leg.name === 'database')}
			data-leg={leg.name}
		>
			<div class="name">
				<h2>{leg.name}</h2>
				<p class="about small quiet">
					{kind === 'install' || leg.name !== 'database' ? ABOUT[leg.name] : 'works on the database'}
				</p>
			</div>
			<p class="said small">
				<span class="word">{STATE_WORDS[leg.state]}</span>
				{#if took(leg)}<span class="quiet took">{took(leg)}</span>{/if}
			</p>
			{#if leg.progress}
				{@const going = leg.progress}
				<div class="progress">
					<progress max={going.of} value={going.done} aria-label="{leg.name}: progress"></progress>
					<p class="small quiet">
						{#if going.unit === 'bytes'}{bytes(going.done)} of {bytes(going.of)}{#if going.ofFiles}, {(
									going.files ?? 0
								).toLocaleString('en')} of {going.ofFiles.toLocaleString('en')} files{/if}
							{left(leg)}
						{:else}{going.done.toLocaleString('en')} of {going.of.toLocaleString('en')} files{/if}
					</p>
				</div>
			{/if}
			{#if leg.lines.length}
				<ul class="lines">
					{#each leg.lines as line (line.id)}
						<li class="kind-{line.kind}">
							<time class="small quiet" datetime={line.at}>{timeOf(line.at)}</time>
							<div>
								{#if SIGNS[line.kind]}<span class="sign" aria-hidden="true">{SIGNS[line.kind]}</span
									>{/if}{line.text}
								{#if typeof line.data.hint === 'string' && line.data.hint}<p class="small quiet">
										{line.data.hint}
									</p>{/if}
							</div>
						</li>
					{/each}
				</ul>
			{/if}
		</li>
	{/each}
</ol>

<style>
	ol {
		--mark: var(--edge);
		display: grid;
		grid-template-columns: repeat(2, minmax(0, 1fr));
		border-left: 4px solid var(--line);
		background: var(--card);
	}
	ol > li {
		grid-column: 1 / -1;
		display: grid;
		grid-template-columns: minmax(0, 1fr) auto;
		gap: 0.1rem 1rem;
		align-content: start;
		padding: 0.6rem 1rem 0.75rem;
		position: relative;
		border: 1px solid var(--line);
		border-width: 0 1px 1px 0;
	}
	ol > li:first-child {
		border-top-width: 1px;
	}
	ol > li.beside {
		grid-column: auto;
	}
	/* The notch on the gauge. */
	ol > li::before {
		content: '';
		position: absolute;
		left: -4px;
		top: 0;
		bottom: 0;
		width: 4px;
		background: transparent;
	}
	ol > li.beside + li.beside::before {
		left: 0;
	}
	ol > li.done::before {
		background: var(--rest);
	}
	ol > li.running::before {
		background: var(--act);
	}
	ol > li.waiting::before {
		background: var(--heed);
	}
	ol > li.failed::before,
	ol > li.cut-off::before {
		background: var(--fail);
	}
	.name {
		display: flex;
		gap: 0.7rem;
		align-items: baseline;
		flex-wrap: wrap;
	}
	h2 {
		font-size: 0.9375rem;
	}
	.word {
		font-weight: 620;
	}
	.done .word {
		color: var(--rest);
	}
	.running .word {
		color: var(--act);
	}
	.waiting .word {
		color: var(--heed);
	}
	.failed .word,
	.cut-off .word {
		color: var(--fail);
	}
	.to-come h2,
	.not-reached h2,
	.not-needed h2,
	.to-come .word,
	.not-reached .word,
	.not-needed .word {
		color: var(--soft);
		font-weight: 500;
	}
	.took {
		margin-left: 0.4rem;
		font-variant-numeric: tabular-nums;
	}
	.progress,
	.lines {
		grid-column: 1 / -1;
	}
	progress {
		width: 100%;
		height: 0.5rem;
		accent-color: var(--act);
	}
	.lines {
		margin-top: 0.25rem;
	}
	.lines li {
		display: grid;
		grid-template-columns: 4.1rem minmax(0, 1fr);
		gap: 0 0.6rem;
		padding: 0.06rem 0;
		overflow-wrap: anywhere;
		align-items: baseline;
	}
	.lines .kind-note {
		color: var(--soft);
	}
	.lines .kind-error {
		color: var(--fail);
		font-weight: 600;
	}
	.sign {
		display: inline-block;
		margin-right: 0.4rem;
		font-weight: 700;
	}
	time {
		font-variant-numeric: tabular-nums;
	}
	@media (max-width: 820px) {
		ol > li.beside {
			grid-column: 1 / -1;
		}
		ol > li.beside + li.beside::before {
			left: -4px;
		}
		.lines li {
			grid-template-columns: minmax(0, 1fr);
		}
		.lines time {
			display: none;
		}
	}
</style>
