"""Who sends which bytes of an archive that goes over on several connections."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from highshelf.core.placing.slices import AHEAD_BYTES, LEAST_BYTES, Shares, Slice, has_won

MB = 1 << 20


@given(
    st.integers(0, 60 * MB),
    st.integers(0, 60 * MB),
    st.lists(st.tuples(st.integers(0, 4), st.booleans()), max_size=200),
)
def test_every_byte_is_sent_once_whoever_comes_first(size: int, at: int, moves: list[tuple[int, bool]]) -> None:
    at = min(at, size)
    shares, front, taken = Shares(size, at), at, []
    for lanes, fails in moves:
        if lanes == 0:
            front += shares.advance(front, 700_000)
        elif (one := shares.take(lanes)) is not None:
            if fails:
                shares.given_up(one)
            else:
                taken.append(one)
                shares.finished(one)
    while granted := shares.advance(front, MB):
        front += granted
    while (one := shares.take(10**9)) is not None:
        taken.append(one)
    ends = front
    for one in sorted(taken, key=lambda s: s.start):
        assert one.start == ends and one.size_bytes > 0
        ends = one.end
    assert ends == size


def test_small_rests_are_left_to_the_front() -> None:
    shares = Shares(AHEAD_BYTES + LEAST_BYTES - 1)
    assert shares.take(3) is None and shares.left_bytes == shares.size
    assert Shares(AHEAD_BYTES + LEAST_BYTES).take(3) == Slice(AHEAD_BYTES, AHEAD_BYTES + LEAST_BYTES)


def test_after_a_break_whole_slices_count_that_reach_to_the_end_without_a_gap() -> None:
    whole = [Slice(9 * MB, 10 * MB), Slice(7 * MB, 8 * MB), Slice(8 * MB, 9 * MB), Slice(3 * MB, 4 * MB)]
    shares = Shares(10 * MB, 2 * MB, whole)
    assert shares.end == 7 * MB and len(shares.done) == 3
    assert shares.advance(2 * MB, 100 * MB) == 5 * MB
    # The front has come further than the lowest of them begins: that one is sent once more.
    assert Shares(10 * MB, 8 * MB + 5, whole).end == 9 * MB


def test_more_connections_win_when_all_together_are_a_good_deal_quicker() -> None:
    assert has_won(300_000, 590_000) and not has_won(300_000, 330_000)
