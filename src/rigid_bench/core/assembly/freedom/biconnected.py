"""The blocks of a graph: what no single node cuts apart."""

from collections.abc import Sequence


def biconnected(nodes: Sequence[int], pairs: Sequence[tuple[int, int]]) -> list[set[int]]:
    """Split a graph at its cut nodes.

    Parameters
    ----------
    nodes
        All nodes; one without an edge is in no block.
    pairs
        The edges; several between the same two nodes count as one.

    Returns
    -------
    list of set of int
        The nodes of each block. Two blocks share at most one node, which cuts the graph there.

    Notes
    -----
    Hopcroft and Tarjan, "Efficient algorithms for graph manipulation", Communications of the ACM 16 (1973), with a
    stack in place of recursion: a chain may be a thousand parts long.

    Examples
    --------
    >>> biconnected([0, 1, 2, 3], [(0, 1), (1, 2), (2, 0), (2, 3)])
    [{2, 3}, {0, 1, 2}]
    """
    beside: dict[int, list[int]] = {node: [] for node in nodes}
    for a, b in pairs:
        beside[a].append(b)
        beside[b].append(a)
    depth: dict[int, int] = {}
    lowest: dict[int, int] = {}
    blocks: list[set[int]] = []
    for root in nodes:
        if root in depth:
            continue
        depth[root] = lowest[root] = 0
        waiting, path = [root], [(root, iter(beside[root]))]
        place = {root: 0}
        while path:
            node, rest = path[-1]
            following = next((other for other in rest if other not in depth or depth[other] < depth[node]), None)
            if following is None:
                path.pop()
                if not path:
                    break
                parent = path[-1][0]
                lowest[parent] = min(lowest[parent], lowest[node])
                if lowest[node] >= depth[parent]:
                    blocks.append({parent, *waiting[place[node] :]})
                    del waiting[place[node] :]
            elif following in depth:
                # the way back along the edge to the parent changes nothing: the parent is no lower than itself
                if len(path) < 2 or following != path[-2][0]:
                    lowest[node] = min(lowest[node], depth[following])
            else:
                depth[following] = lowest[following] = depth[node] + 1
                place[following] = len(waiting)
                waiting.append(following)
                path.append((following, iter(beside[following])))
    return blocks
