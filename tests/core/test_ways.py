"""Walks over names against NetworkX, on random graphs with ways there and back, rings, islands and several ways of a weight."""

from __future__ import annotations

import itertools
import random

import networkx as nx
import pytest

from yardmeter.core.ways import Ways, beyond, chain, join, lightest, nets, shortest, ways


def pairs_of(rng: random.Random, names: int) -> list[tuple[int, int]]:
    return [(rng.randrange(names), rng.randrange(names)) for _ in range(rng.randrange(2 * names))]


@pytest.mark.parametrize("seed", range(20))
def test_walks_end_where_those_of_networkx_do(seed: int) -> None:
    rng = random.Random(seed)
    names = range(rng.randint(1, 12))
    pairs = pairs_of(rng, len(names))
    one_way, both = nx.DiGraph(pairs), nx.Graph(pairs)
    one_way.add_nodes_from(names)
    both.add_nodes_from(names)
    onward, back = ways(names, pairs), ways(names, pairs, back=True)
    assert {frozenset(net) for net in nets(back)} == {frozenset(net) for net in nx.connected_components(both)}
    for a in names:
        assert beyond(onward, a) == nx.descendants(one_way, a)
        for b in names:
            way = shortest(onward, a, b)
            assert (way is not None) == nx.has_path(one_way, a, b)
            if way:
                assert (way[0], way[-1], len(way)) == (a, b, nx.shortest_path_length(one_way, a, b) + 1)
                assert all(to in onward[at] for at, to in itertools.pairwise(way))


@pytest.mark.parametrize("seed", range(20))
def test_the_lightest_way_weighs_what_dijkstras_does(seed: int) -> None:
    rng = random.Random(seed)
    found: Ways[int] = {}
    graph: nx.Graph[int] = nx.Graph()
    for a, b in pairs_of(rng, 10):
        weight = rng.choice([0.0, 1.0, 1.5, 4.0])
        join(found, a, b, weight)
        graph.add_edge(a, b, weight=weight)
    for a in range(10):
        for b in range(10):
            way = lightest(found, a, b)
            if a not in graph or b not in graph or not nx.has_path(graph, a, b):
                assert way is None
            else:
                assert way
                assert (way[0], way[-1]) == (a, b)
                weighs = sum(found[at][to] for at, to in itertools.pairwise(way))
                assert weighs == nx.shortest_path_length(graph, a, b, weight="weight")


def test_a_chain_ends_where_it_ends_or_goes_round() -> None:
    onward = {"camera": "board", "board": "sender", "left": "right", "right": "left"}
    assert chain(onward, "camera") == ("camera", "board", "sender")
    assert chain(onward, "sender") == ("sender",)
    assert chain(onward, "left") == ("left", "right")
