"""What a description says: the kind of part and its fields, each with the place in the text it was read from (P2)."""

import re
import unicodedata
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from decimal import Decimal

from .kinds import FIELDS, KINDS
from .values import AWG, BEARINGS, case_size, coded, decimal_of, measured

__all__ = ["Described", "Said", "describe", "kind_named"]


@dataclass(frozen=True, slots=True)
class Said:
    """A value of a field in its base unit, or a word; and where in the text it stands."""

    value: Decimal | str
    start: int
    end: int


@dataclass(slots=True)
class Described:
    """What a text says: its kind, empty where nothing tells, and its fields by name."""

    kind: str = ""
    fields: dict[str, Said] = field(default_factory=dict)


_N = r"(?P<n>\d+(?:[.,]\d+)?)"
_P = r"\s*(?P<p>[fpnuµμmkKMG]?)"
_END = r"(?![A-Za-zµΩ0-9])"
_BEGIN = r"(?<![A-Za-z0-9.,])"

_OHM = re.compile(rf"{_BEGIN}{_N}\s*(?P<p>[mkKMG]?)\s*(?:Ω|Ω|ohms?|Ohms?|OHMS?){_END}")
_FARAD = re.compile(rf"{_BEGIN}{_N}\s*(?P<p>[pnuµμm])\s*(?:F|f|Farad|farad){_END}")
_HENRY = re.compile(rf"{_BEGIN}{_N}\s*(?P<p>[pnuµμm]?)\s*(?:H|Hy){_END}")
_HERTZ = re.compile(rf"{_BEGIN}{_N}\s*(?P<p>[kKMG]?)\s*[Hh][Zz]{_END}")
_VOLT = re.compile(rf"{_BEGIN}{_N}\s*(?P<p>[mk]?)\s*V(?:[AD]C)?{_END}")
_AMPERE = re.compile(rf"{_BEGIN}{_N}\s*(?P<p>[unµμm]?)\s*A{_END}")
_WATT = re.compile(rf"{_BEGIN}(?:(?P<over>\d+)/(?P<under>\d+)|{_N})\s*(?P<p>[mk]?)\s*W{_END}")
_PERCENT = re.compile(rf"(?:±|\+/-|\+-)?\s*{_BEGIN}{_N}\s*%")
_PPM = re.compile(rf"(?:±|\+/-)?\s*{_BEGIN}{_N}\s*ppm", re.IGNORECASE)
_CODE = re.compile(r"(?<![A-Za-z0-9.,])(?:\d{1,4}[RrKkMGpnuµμ]\d{0,3}|[RrpnuKk]\d{1,3})[BCDFGJKM]?(?![A-Za-z0-9µΩ%])")
_CASE = re.compile(
    r"(?<![\d.,])(?P<before>[Mm](?:etric)?\s?)?(?P<code>0\d{3,4}|[1-6]\d{3})(?P<after>\s?(?:metric|M)\b)?(?![\d.,]*\d)", re.IGNORECASE
)
_DIELECTRIC = re.compile(r"(?<![A-Za-z0-9])(C[0O]G|NP[0O]|X[58][RS]|X7[RS]|Y5V|Z5U)(?![A-Za-z0-9])", re.IGNORECASE)
_THREAD = re.compile(
    r"(?<![A-Za-z0-9])M\s?(?P<n>\d{1,2}(?:[.,]\d)?)(?:\s*[x×X]\s*(?P<pitch>[01][.,]\d{1,2}))?(?:\s*[x×X*]\s*(?P<length>\d{1,4}(?:[.,]\d+)?)(?:\s*mm)?)?(?![A-Za-z0-9]|[.,]\d)"
)
_STANDARD = re.compile(r"(?<![A-Za-z0-9])(ISO|DIN|EN|ANSI|JIS)\s*(?:EN\s*)?(?:ISO\s*)?-?\s*(\d{2,5})(?![0-9])", re.IGNORECASE)
_CLASS = re.compile(r"(?<![\d.,])(4[.,][68]|5[.,][68]|6[.,]8|8[.,]8|10[.,]9|12[.,]9)(?![\d.,]*\d)")
_STEEL = re.compile(r"(?<![A-Za-z0-9])A([24])(?:-(?:50|70|80))?(?![A-Za-z0-9])")
_WAYS = re.compile(
    r"(?<![A-Za-z0-9.,])(?:(?P<a>\d{1,2})\s*[x×X]\s*)?(?P<n>\d{1,3})\s*-?(?:ways?|pins?|pos(?:itions?)?|pol(?:ig|e|s)?|polig|contacts?|voies|broches|p[oó]los|vías)\b",
    re.IGNORECASE,
)
_PITCH = re.compile(
    r"(?:pitch|raster|RM|pas|paso)\s*:?\s*(?P<n>\d+(?:[.,]\d+)?)\s*(?:mm)?|(?P<m>\d+(?:[.,]\d+)?)\s*mm\s*(?:pitch|raster)", re.IGNORECASE
)
_CORES = re.compile(
    r"(?<![A-Za-z0-9.,])(?P<cores>\d{1,3})\s*(?:[x×X]|cores?\s*[x×X]?|G)\s*(?P<n>\d+(?:[.,]\d+)?)\s*(?:mm2|mm²|qmm)", re.IGNORECASE
)
_SECTION = re.compile(rf"{_BEGIN}{_N}\s*(?:mm2|mm²|qmm)", re.IGNORECASE)
_AWG = re.compile(r"(?:AWG\s*-?\s*(?P<a>\d{1,2})|(?<![\d.,])(?P<b>\d{1,2})\s*AWG)(?!\d)", re.IGNORECASE)
_BEARING = re.compile(r"(?<![A-Za-z0-9.,])(\d{3,4})(?=[-/ ]|\d?RS|2?Z|$|[,;)])")
_SEAL = re.compile(r"(?<![A-Za-z])(?P<seal>2?RS)\d?(?![A-Za-z0-9])|(?<![A-Za-z])(?P<shield>ZZ|2Z)(?![A-Za-z0-9])", re.IGNORECASE)
_ONE_SIZE = r"\d+(?:[.,]\d+)?"
_SIZES = re.compile(rf"(?<![A-Za-z0-9.,])(?P<sizes>{_ONE_SIZE}(?:\s*[x×X*]\s*{_ONE_SIZE}){{1,2}})\s*(?P<unit>mm|cm|m)?(?![A-Za-z0-9²])")
_THICK = re.compile(rf"(?<![A-Za-z0-9.,x×])(?P<sizes>{_ONE_SIZE})\s*(?P<unit>mm|cm|m)(?![A-Za-z0-9²])")

_HEADS = {
    "countersunk": ("countersunk", "senkkopf", "senk", "fraisée", "avellanada"),
    "pan": ("pan head", "pan", "linsenkopf"),
    "hexagon": ("hexagon head", "hex head", "hexagon", "hex", "sechskant", "hexagonale", "hexagonal"),
    "socket": ("socket head", "socket", "innensechskant", "zylinderkopf", "chc", "allen"),
}
_MATERIALS = {
    "aluminium": ("aluminium", "aluminum", "alu", "aluminio"),
    "stainless": ("stainless", "edelstahl", "inox", "nirosta", "inoxidable"),
    "brass": ("brass", "messing", "laiton", "latón"),
    "copper": ("copper", "kupfer", "cuivre", "cobre"),
    "nylon": ("nylon", "polyamid", "pa6", "pa66"),
    "steel": ("steel", "stahl", "acier", "acero"),
    "nbr": ("nbr",),
    "epdm": ("epdm",),
    "fkm": ("fkm", "fpm"),
    "silicone": ("silicone", "silikon"),
}
_FINISHES = {
    "zinc": ("zinc plated", "zinc", "verzinkt", "galvanised", "galvanized", "zingué", "cincado"),
    "black": ("black", "schwarz", "noir", "negro", "brüniert"),
    "nickel": ("nickel plated", "nickel", "vernickelt", "nickelé"),
    "anodised": ("anodised", "anodized", "eloxiert", "anodisé", "anodizado"),
}
_FORMS = {
    "sheet": ("sheet", "plate", "blech", "platte", "tôle", "chapa"),
    "bar": ("bar", "rod", "stab", "stange", "barre", "barra"),
    "tube": ("tube", "rohr", "tubo"),
    "profile": ("profile", "profil", "perfil"),
}
_LENGTHS = {"mm": Decimal("0.001"), "cm": Decimal("0.01"), "m": Decimal(1), "": Decimal("0.001")}
#: Which kind a value speaks for where no word does.
_SPEAKS_FOR = {"resistance": "resistor", "capacitance": "capacitor", "inductance": "inductor", "frequency": "crystal", "thread": "fastener"}


def describe(text: str) -> Described:
    """What a description says.

    >>> found = describe("CAP CER 4u7 25V X5R 0805")
    >>> found.kind, {name: str(said.value) for name, said in found.fields.items()}
    ('capacitor', {'capacitance': '0.0000047', 'voltage': '25', 'dielectric': 'X5R', 'case': '0805'})
    """
    text = unicodedata.normalize("NFC", text[:2000])
    kind = _kind(_low(text))
    found: dict[str, Said] = {}
    if not kind:
        for name, speaks_for in _SPEAKS_FOR.items():
            said = next(_READERS[name](text, speaks_for), None)
            if said is not None:
                kind = speaks_for
                break
    if not kind:
        return Described()
    taken: list[tuple[int, int]] = []
    for name in KINDS[kind].fields:
        for said in _READERS[name](text, kind):
            # One place of a text says one thing: what was read for an earlier field is not read again.
            if all(said.end <= start or end <= said.start for start, end in taken):
                found[name] = said
                taken.append((said.start, said.end))
                break
    _tolerance_of_code(text, kind, found)
    return Described(kind, found)


def kind_named(text: str) -> str:
    """The kind that a word of a text names; empty where none does.

    >>> kind_named("CAP CER 4u7"), kind_named("4u7 25V")
    ('capacitor', '')
    """
    return _kind(_low(unicodedata.normalize("NFC", text[:2000])))


#: From so many letters on a word is known within a compound, too: Sechskantschraube.
_IN_COMPOUNDS = 6
#: From so many letters on it is known at the end of one: Aluminiumblech, Rundstab.
_ENDS_COMPOUNDS = 4


class _Lexicon:
    """Words and what each stands for, found in one pass over a text folded to small letters; the longest that begins at a place."""

    def __init__(self, table: Mapping[str, tuple[str, ...]]) -> None:
        self._means = {word: name for name, words in table.items() for word in words}
        longest = sorted(self._means, key=len, reverse=True)
        self._pattern = re.compile(
            "|".join(
                re.escape(w)
                if len(w) >= _IN_COMPOUNDS
                else rf"{re.escape(w)}(?![^\W\d_])"
                if len(w) >= _ENDS_COMPOUNDS
                else rf"(?<![^\W\d_]){re.escape(w)}(?![^\W\d_])"
                for w in longest
            )
        )

    def find(self, low: str) -> Iterator[tuple[str, int, int]]:
        """What the words of a text stand for, each with its place, in the order of the text."""
        for m in self._pattern.finditer(low):
            yield self._means[m.group()], m.start(), m.end()


_KIND_WORDS = _Lexicon({name: kind.words for name, kind in KINDS.items()})


def _low(text: str) -> str:
    """A text in small letters, each in its place: a few letters have none of one character, and stay."""
    low = text.lower()
    return low if len(low) == len(text) else "".join(c.lower() if len(c.lower()) == 1 else c for c in text)


def _kind(low: str) -> str:
    """The kind whose word stands first."""
    return next((name for name, _, _ in _KIND_WORDS.find(low)), "")


def _tolerance_of_code(text: str, kind: str, found: dict[str, Said]) -> None:
    """The letter behind a coded value (IEC 60062), where no percent stands."""
    main = found.get(KINDS[kind].main)
    if main is None or "tolerance" in found or "tolerance" not in KINDS[kind].fields:
        return
    words = text[main.start : main.end]
    code = coded(words, kind != "resistor")
    # 100nF is so many farads, not a tolerance of 1 %.
    if code is not None and code[1] and not _FARAD.fullmatch(words):
        found["tolerance"] = Said(Decimal(code[1]), main.end - 1, main.end)


# -- one reader for each field: what of it stands in a text, the likeliest first

_Reader = Callable[[str, str], Iterator[Said]]


def _by(pattern: re.Pattern[str]) -> _Reader:
    def read(text: str, kind: str) -> Iterator[Said]:
        for m in pattern.finditer(text):
            groups = m.groupdict()
            if groups.get("under"):
                if int(groups["under"]):
                    yield Said(decimal_of(groups["over"]) / decimal_of(groups["under"]), *m.span())
                continue
            yield Said(measured(m["n"], groups.get("p") or ""), *_tight(text, m))

    return read


def _tight(text: str, m: re.Match[str]) -> tuple[int, int]:
    """The place of a match without blanks around it."""
    whole = m.group()
    return m.start() + len(whole) - len(whole.lstrip()), m.end() - len(whole) + len(whole.rstrip())


def _coded_or(pattern: re.Pattern[str], capacitance: bool) -> _Reader:
    plain = _by(pattern)

    def read(text: str, kind: str) -> Iterator[Said]:
        yield from plain(text, kind)
        for m in _CODE.finditer(text):
            code = coded(m.group(), capacitance)
            if code is not None:
                yield Said(code[0], *m.span())
        # Of a part that is named, prefix and number alone are enough: 10k, 100n.
        if capacitance:
            for m in re.finditer(rf"{_BEGIN}{_N}\s*(?P<p>[pnuµμ])(?![A-Za-z0-9])", text):
                yield Said(measured(m["n"], m["p"]), *m.span())
        elif kind == "resistor":
            for m in re.finditer(rf"{_BEGIN}{_N}\s*(?P<p>[kKMG])(?![A-Za-z0-9])", text):
                yield Said(measured(m["n"], m["p"]), *m.span())

    return read


def _inductance(text: str, kind: str) -> Iterator[Said]:
    yield from _by(_HENRY)(text, kind)
    for m in re.finditer(rf"{_BEGIN}{_N}\s*(?P<p>[nuµμm])(?![A-Za-z0-9])", text) if kind == "inductor" else ():
        yield Said(measured(m["n"], m["p"]), *m.span())


def _words(table: Mapping[str, tuple[str, ...]]) -> _Reader:
    lexicon = _Lexicon(table)

    def read(text: str, kind: str) -> Iterator[Said]:
        for name, start, end in lexicon.find(_low(text)):
            yield Said(name, start, end)

    return read


_READ_MATERIAL = _words(_MATERIALS)
_READ_SEAL = _words({"sealed": ("sealed", "abgedichtet", "étanche", "sellado"), "shielded": ("shielded", "deckscheibe", "blindado")})


def _case(text: str, kind: str) -> Iterator[Said]:
    for m in _CASE.finditer(text):
        code = case_size(m["code"], bool((m["before"] or "").strip() or (m["after"] or "").strip()))
        if code is not None:
            yield Said(code, *_tight(text, m))


def _dielectric(text: str, kind: str) -> Iterator[Said]:
    for m in _DIELECTRIC.finditer(text):
        word = m.group().upper().replace("NPO", "C0G").replace("NP0", "C0G").replace("COG", "C0G")
        yield Said(word, *m.span())


def _thread(text: str, kind: str) -> Iterator[Said]:
    for m in _THREAD.finditer(text):
        size = f"M{decimal_of(m['n']).normalize():f}"
        fine = f"x{decimal_of(m['pitch']).normalize():f}" if m["pitch"] else ""
        yield Said(size + fine, m.start(), m.end("pitch") if m["pitch"] else m.end("n"))


def _length(text: str, kind: str) -> Iterator[Said]:
    if kind == "fastener":
        for m in _THREAD.finditer(text):
            if m["length"]:
                yield Said(_exact_length(m["length"], "mm"), *m.span("length"))
        return
    for m in re.finditer(rf"{_BEGIN}{_N}\s*(?P<unit>mm|cm|m)(?![A-Za-z0-9²])", text):
        yield Said(_exact_length(m["n"], m["unit"]), *m.span())


def _exact_length(number: str, unit: str) -> Decimal:
    return Decimal(f"{(decimal_of(number) * _LENGTHS[unit]).normalize():f}")


def _standard(text: str, kind: str) -> Iterator[Said]:
    for m in _STANDARD.finditer(text):
        yield Said(f"{m[1].upper()} {m[2]}", *m.span())


def _property_class(text: str, kind: str) -> Iterator[Said]:
    for m in _CLASS.finditer(text):
        yield Said(m[1].replace(",", "."), *m.span())


def _material(text: str, kind: str) -> Iterator[Said]:
    for m in _STEEL.finditer(text) if kind == "fastener" else ():
        yield Said(f"stainless A{m[1]}", *m.span())
    yield from _READ_MATERIAL(text, kind)


def _ways(text: str, kind: str) -> Iterator[Said]:
    for m in _WAYS.finditer(text):
        yield Said(str(int(m["n"]) * int(m["a"] or 1)), *m.span())


def _pitch(text: str, kind: str) -> Iterator[Said]:
    for m in _PITCH.finditer(text):
        yield Said(_exact_length(m["n"] or m["m"], "mm"), *m.span())


def _cores(text: str, kind: str) -> Iterator[Said]:
    for m in _CORES.finditer(text):
        yield Said(m["cores"], *m.span("cores"))
    for m in re.finditer(r"(?<![A-Za-z0-9.,])(\d{1,3})[ -]?(?:cores?|adrig|conducteurs|conductores)\b", text, re.IGNORECASE):
        yield Said(m[1], *m.span())


def _section(text: str, kind: str) -> Iterator[Said]:
    for m in _SECTION.finditer(text):
        yield Said(Decimal(f"{(decimal_of(m['n']) / 10**6).normalize():f}"), *m.span())
    for m in _CORES.finditer(text):
        yield Said(Decimal(f"{(decimal_of(m['n']) / 10**6).normalize():f}"), m.start("n"), m.end())
    for m in _AWG.finditer(text):
        gauge = int(m["a"] or m["b"])
        if gauge in AWG:
            yield Said(AWG[gauge], *m.span())


def _seal(text: str, kind: str) -> Iterator[Said]:
    for m in _SEAL.finditer(text):
        yield Said("sealed" if m["seal"] else "shielded", *m.span())
    yield from _READ_SEAL(text, kind)


def _size(text: str, kind: str) -> Iterator[Said]:
    for m in _BEARING.finditer(text) if kind == "bearing" else ():
        if m[1] in BEARINGS:
            yield Said(" x ".join(f"{_exact_length(str(n), 'mm'):f}" for n in BEARINGS[m[1]]), *m.span())
    for pattern in (_SIZES, _THICK) if kind == "stock" else (_SIZES,):
        for m in pattern.finditer(text):
            unit = m["unit"] or "mm"
            sizes = [_exact_length(n, unit) for n in re.findall(_ONE_SIZE, m["sizes"])]
            yield Said(" x ".join(f"{s:f}" for s in sizes), *_tight(text, m))


_READERS: dict[str, _Reader] = {
    "resistance": _coded_or(_OHM, False),
    "capacitance": _coded_or(_FARAD, True),
    "inductance": _inductance,
    "frequency": _by(_HERTZ),
    "tolerance": _by(_PERCENT),
    "stability": _by(_PPM),
    "voltage": _by(_VOLT),
    "current": _by(_AMPERE),
    "power": _by(_WATT),
    "dielectric": _dielectric,
    "case": _case,
    "ways": _ways,
    "pitch": _pitch,
    "thread": _thread,
    "length": _length,
    "property_class": _property_class,
    "head": _words(_HEADS),
    "standard": _standard,
    "material": _material,
    "finish": _words(_FINISHES),
    "cores": _cores,
    "section": _section,
    "size": _size,
    "form": _words(_FORMS),
    "seal": _seal,
}
assert _READERS.keys() == FIELDS.keys()
