"""Rules P1, P3 and P4: which parts of ours a sender's line may be, by which road, best first, and which are certain."""

import math
import re
from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field

from .compare import AGREES, DIFFERS, compare
from .describe import Described, describe
from .kinds import KINDS
from .numbers import DIGIT, LETTER, SUFFIX, fold, near_way

__all__ = ["MOST", "OFTEN", "ROADS", "RAREST_WORDS", "Asked", "Often", "Ours", "Proposal", "Shelf", "words_of"]

#: The roads, strongest first.
ROADS = ("remembered", "exact", "near", "by values", "by words")
MOST = 10
#: Of the words of both texts, by how rare they are: what two must share to be shown as alike. A choice of ours.
LEAST_WORDS = 0.6
#: Candidates come from so many of the rarest words of a text, each in so many parts at most.
RAREST_WORDS, OFTEN = 4, 2000
_LIFECYCLES = ("active", "draft", "last_buy", "obsolete")


@dataclass(frozen=True, slots=True)
class Asked:
    """What a sender's line says."""

    number: str = ""
    maker: str = ""
    maker_number: str = ""
    description: str = ""


@dataclass(slots=True)
class Ours:
    """A part of ours: ``texts`` is all that says what it is; ``makers`` are (maker, number, rank).

    ``said`` is what the texts say, where that was read before.
    """

    number: str
    texts: str = ""
    makers: list[tuple[str, str, int]] = field(default_factory=list)
    lifecycle: str = "active"
    on_stock: bool = False
    said: Described | None = None


@dataclass(frozen=True, slots=True)
class Often:
    """How often things stand in all our parts, where a shelf holds only some of them.

    Attributes:
        parts: how many there are.
        values: (kind, field, value) → how many state it.
        words: word → how many parts without a main value have it.
    """

    parts: int
    values: Mapping[tuple[str, str, object], int]
    words: Mapping[str, int]


@dataclass(frozen=True, slots=True)
class Proposal:
    """A part that a line may be. ``verdicts`` say of each field what agrees (P2)."""

    part: str
    road: str
    certain: bool
    verdicts: dict[str, str]


def words_of(text: str) -> set[str]:
    """The words and numbers of a text, in whatever order and case.

    >>> sorted(words_of("Lens, moulded, clear; 155 mm"))
    ['155', 'clear', 'lens', 'mm', 'moulded']
    """
    return {w for w in re.findall(r"[^\W_]+", text.casefold()) if len(w) > 1 or w.isdigit()}


class Shelf:
    """Our parts, laid out so that a line finds its like.

    Args:
        remembered: the sender's number, folded → our part that it was paired with before.
        often: what stands how often in all our parts, where these are only some.
        suffixes: by maker, folded, what is known to be a suffix for packing or plating (:func:`numbers.learn_suffixes`).
    """

    def __init__(
        self,
        parts: Iterable[Ours],
        remembered: Mapping[str, str] | None = None,
        often: Often | None = None,
        suffixes: Mapping[str, Collection[str]] | None = None,
    ) -> None:
        self._suffixes = dict(suffixes or {})
        self.parts = {p.number: p for p in parts}
        self.remembered = dict(remembered or {})
        self.described = {p.number: p.said or describe(p.texts) for p in self.parts.values()}
        self._by_number: dict[str, list[tuple[str, str, int]]] = defaultdict(list)
        for part in self.parts.values():
            self._by_number[fold(part.number)].append((part.number, "", 0))
            for maker, number, rank in part.makers:
                self._by_number[fold(number)].append((part.number, maker, rank))
        self._by_start: dict[str, list[str]] = defaultdict(list)
        self._by_end: dict[str, list[str]] = defaultdict(list)
        for folded in self._by_number:
            # Nearly the same number begins or ends as it does: one slip leaves one of the two whole.
            self._by_start[folded[:4]].append(folded)
            self._by_end[folded[-4:]].append(folded)
        self._by_main: dict[tuple[str, object], list[str]] = defaultdict(list)
        self._words: dict[str, set[str]] = {}
        self._by_word: dict[str, list[str]] = defaultdict(list)
        self._shared: Counter[tuple[str, str, object]] = Counter()
        for number, said in self.described.items():
            for name, value in said.fields.items():
                self._shared[said.kind, name, value.value] += 1
            main = said.fields.get(KINDS[said.kind].main) if said.kind else None
            if main is not None:
                self._by_main[said.kind, main.value].append(number)
            else:
                self._words[number] = words_of(self.parts[number].texts)
                for word in self._words[number]:
                    self._by_word[word].append(number)

        self._count = len(self.parts)
        self._often = {w: len(p) for w, p in self._by_word.items()}
        if often is not None:
            self._count, self._shared, self._often = often.parts, Counter(often.values), dict(often.words)

    def propose(self, asked: Asked) -> list[Proposal]:
        """At most :data:`MOST` proposals, best first (P3)."""
        said = describe(asked.description)
        found: dict[str, tuple[str, int, bool]] = {}

        def take(part: str, road: str, rank: int = 0, doubt: bool = False) -> None:
            # A part may be met several times: by the strongest road, without doubt, at its best rank.
            way = (ROADS.index(road), doubt, rank)
            held = found.get(part)
            if part in self.parts and (held is None or way < (ROADS.index(held[0]), held[2], held[1])):
                found[part] = (road, rank, doubt)

        for text in filter(None, (asked.number, asked.maker_number)):
            folded = fold(text)
            if folded and folded in self.remembered:
                take(self.remembered[folded], "remembered")
        for text in filter(None, (asked.maker_number, asked.number)):
            folded = fold(text)
            if not folded:
                continue
            for part, maker, rank in self._by_number.get(folded, ()):
                # The same number of another maker is another thing, and is looked at.
                other = bool(maker and asked.maker) and fold(maker) != fold(asked.maker)
                take(part, "exact", rank, other)
            same = any(
                (not maker or not asked.maker or fold(maker) == fold(asked.maker)) and not self._says_other(said, part)
                for part, maker, _ in self._by_number.get(folded, ())
            )
            for part, rank in self._near(folded, asked.maker, said, SUFFIX if same else DIGIT):
                take(part, "near", rank)
        main = said.fields.get(KINDS[said.kind].main) if said.kind else None
        if main is not None:
            for part in self._by_main.get((said.kind, main.value), ()):
                take(part, "by values")
        else:
            for part in self._by_words(asked.description):
                take(part, "by words")
        ranked = sorted((self._key(said, part, *how), part, how) for part, how in found.items())
        return [self._proposal(said, part, road, doubt) for _, part, (road, _, doubt) in ranked[:MOST]]

    def _near(self, folded: str, maker: str, said: Described, last: int) -> list[tuple[str, int]]:
        """Parts, with the rank of the maker's number, whose number is nearly a folded one, in the surest way in which any is.

        Those whose value the text names go before all others. Without such a word a letter too many, missing or another may be a slip or
        another part, and counts where only one part is so near; a digit typed twice or left out may be another value, and does not count.

        Args:
            last: the least sure way that is looked at. What stands there as we write it is no slip: then only another suffix counts.
        """
        met: dict[int, dict[str, int]] = defaultdict(dict)
        for candidate in {*self._by_start[folded[:4]], *self._by_end[folded[-4:]]}:
            for part, of, rank in self._by_number[candidate]:
                known = self._suffixes.get(fold(of), ()) if not maker or not of or fold(of) == fold(maker) else ()
                way = near_way(folded, candidate, known)
                if way is not None and way <= last:
                    met[way][part] = min(rank, met[way].get(part, rank))
        for way in sorted(met):
            meant = {part: rank for part, rank in met[way].items() if self._says(said, part)}
            if meant:
                return list(meant.items())
        for way in sorted(met.keys() - {DIGIT}):
            found = met[way]
            if way == LETTER and (len(found) > 1 or self._says_other(said, *found)):
                continue
            return list(found.items())
        return []

    def _says(self, said: Described, part: str) -> bool:
        """Whether a text names the main value of a part, and nothing that it is not."""
        main = KINDS[said.kind].main if said.kind else None
        verdicts = compare(said, self.described[part])
        return main is not None and verdicts.get(main) == AGREES and DIFFERS not in verdicts.values()

    def _says_other(self, said: Described, part: str) -> bool:
        return DIFFERS in compare(said, self.described[part]).values()

    def _by_words(self, text: str) -> list[str]:
        """Parts that state no main value either, of whose words, the rare ones above all, the text has most, and they of its."""
        asked = words_of(text)
        # What two share stands on a rare word, or they are not alike.
        rare = sorted((self._often[w], w) for w in asked if w in self._often)[:RAREST_WORDS]
        shares: dict[str, float] = {}
        for part in {p for often, w in rare if often <= OFTEN for p in self._by_word.get(w, ())}:
            own = self._words[part]
            share = self._rarity(asked & own) / self._rarity(asked | own)
            if share >= LEAST_WORDS:
                shares[part] = share
        return sorted(shares, key=lambda p: (-shares[p], p))[:MOST]

    def _rarity(self, words: set[str]) -> float:
        # Added up in one order, so that the same words weigh the same to the last bit.
        return sum(math.log(1 + self._count / max(1, self._often.get(w, 0))) for w in sorted(words))

    def _key(self, said: Described, part: str, road: str, rank: int, doubt: bool) -> tuple:
        """Road, then the weight of what agrees, then our own liking (P3)."""
        ours = self.parts[part]
        verdicts = compare(said, self.described[part])
        agreeing = sum(self._weight(part, name) for name, verdict in verdicts.items() if verdict == AGREES)
        differs = sum(verdict == DIFFERS for verdict in verdicts.values())
        life = _LIFECYCLES.index(ours.lifecycle) if ours.lifecycle in _LIFECYCLES else len(_LIFECYCLES)
        return (ROADS.index(road), doubt, differs, -round(agreeing, 9), life, not ours.on_stock, rank, part)

    def _weight(self, part: str, name: str) -> float:
        """A field weighs more the fewer parts share its value."""
        said = self.described[part]
        return math.log(1 + self._count / max(1, self._shared[said.kind, name, said.fields[name].value]))

    def _proposal(self, said: Described, part: str, road: str, doubt: bool) -> Proposal:
        verdicts = compare(said, self.described[part])
        certain = road in ("remembered", "exact") and not doubt and DIFFERS not in verdicts.values()
        return Proposal(part, road, certain, verdicts)
