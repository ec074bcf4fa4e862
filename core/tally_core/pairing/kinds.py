"""The kinds of parts whose texts are read as values: one entry each, with the words for it and an example that runs as its test.

A kind is added by an entry here. Words are trade words in English, German, French and Spanish (common practice).
"""

from dataclasses import dataclass, field

__all__ = ["FIELDS", "KINDS", "Field", "Kind"]


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a kind.

    Attributes:
        unit: the base unit of its value; empty for a word.
        better: ``larger`` or ``smaller`` where such a value is at least as good (P2 *meets*); empty where only the same will do.
        order: of a word, from the least to the best, where a better one *meets*.
    """

    unit: str = ""
    better: str = ""
    order: tuple[str, ...] = ()


#: Every field that a text can state. A property class, a rating and a tolerance are met by more than asked.
FIELDS: dict[str, Field] = {
    "resistance": Field("Ω"), "capacitance": Field("F"), "inductance": Field("H"), "frequency": Field("Hz"),
    "tolerance": Field("%", "smaller"), "stability": Field("ppm", "smaller"), "voltage": Field("V", "larger"), "current": Field("A", "larger"),
    "power": Field("W", "larger"), "dielectric": Field(order=("Y5V", "Z5U", "X5R", "X7R", "X8R", "C0G")), "case": Field(), "ways": Field(), "pitch": Field("m"),
    "thread": Field(), "length": Field("m"), "property_class": Field(order=("4.6", "4.8", "5.6", "5.8", "6.8", "8.8", "10.9", "12.9")),
    "head": Field(), "standard": Field(), "material": Field(), "finish": Field(), "cores": Field(), "section": Field("m2"),
    "size": Field(), "form": Field(), "seal": Field(),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of part.

    Attributes:
        words: that name it, folded to small letters.
        main: the field without which nothing can be said to be the same part.
        fields: those a text of this kind may state.
        example: a text and what it says, run as a test.
    """

    words: tuple[str, ...]
    main: str
    fields: tuple[str, ...]
    example: tuple[str, dict[str, str]] = field(default=("", {}))


KINDS: dict[str, Kind] = {
    "resistor": Kind(
        ("resistor", "res", "widerstand", "résistance", "resistance", "resistencia", "rés"),
        "resistance", ("resistance", "tolerance", "stability", "power", "voltage", "case"),
        ("Resistor 4k7 1 % 0.1 W 0603", {"resistance": "4700", "tolerance": "1", "power": "0.1", "case": "0603"})),
    "capacitor": Kind(
        ("capacitor", "cap", "kondensator", "kerko", "elko", "condensateur", "condensador", "mlcc"),
        "capacitance", ("capacitance", "voltage", "tolerance", "dielectric", "case"),
        ("Kondensator 4,7 µF 25 V 20 % X7R 0805",
         {"capacitance": "0.0000047", "voltage": "25", "tolerance": "20", "dielectric": "X7R", "case": "0805"})),
    "inductor": Kind(
        ("inductor", "choke", "drossel", "spule", "induktivität", "inductance", "bobine", "inductor", "inductancia", "ferrite"),
        "inductance", ("inductance", "current", "tolerance", "case"),
        ("Drossel 10 µH 1,2 A 20 %", {"inductance": "0.00001", "current": "1.2", "tolerance": "20"})),
    "crystal": Kind(
        ("crystal", "xtal", "quarz", "quartz", "cristal", "oscillator", "oszillator"),
        "frequency", ("frequency", "stability", "capacitance", "voltage"),
        ("Quartz 16 MHz 20 ppm 18 pF", {"frequency": "16000000", "stability": "20", "capacitance": "0.000000000018"})),
    "fastener": Kind(
        ("screw", "bolt", "nut", "washer", "stud", "schraube", "mutter", "scheibe", "vis", "écrou", "rondelle", "boulon", "tornillo", "tuerca", "arandela"),
        "thread", ("thread", "length", "property_class", "head", "standard", "material", "finish"),
        ("Screw ISO 4762 M5 x 16 8.8", {"standard": "ISO 4762", "thread": "M5", "length": "0.016", "property_class": "8.8"})),
    "connector": Kind(
        ("connector", "header", "socket", "plug", "stecker", "buchse", "stiftleiste", "connecteur", "embase", "conector"),
        "ways", ("ways", "pitch", "current", "voltage"),
        ("Header 2x5 way, pitch 2.54 mm", {"ways": "10", "pitch": "0.00254"})),
    "cable": Kind(
        ("cable", "wire", "kabel", "leitung", "litze", "câble", "fil", "cordon"),
        "section", ("section", "cores", "length", "voltage"),
        ("Kabel 5 x 0,75 mm2 300 V", {"cores": "5", "section": "0.00000075", "voltage": "300"})),
    "o-ring": Kind(
        ("o-ring", "o ring", "seal ring", "dichtring", "joint torique", "junta tórica"),
        "size", ("size", "material"),
        ("O-ring 150 x 4 mm NBR", {"size": "0.15 x 0.004", "material": "nbr"})),
    "bearing": Kind(
        ("ball bearing", "bearing", "kugellager", "wälzlager", "roulement", "rodamiento", "cojinete"),
        "size", ("size", "seal", "material"),
        ("Rillenkugellager 6204-2RS", {"size": "0.02 x 0.047 x 0.014", "seal": "sealed"})),
    "stock": Kind(
        ("sheet", "bar", "tube", "plate", "rod", "profile", "blech", "rohr", "stab", "stange", "platte", "tôle", "barre", "chapa", "barra", "tubo"),
        "size", ("form", "size", "material"),
        ("Aluminium tube, 160 x 6 mm", {"form": "tube", "size": "0.16 x 0.006", "material": "aluminium"})),
}  # fmt: skip
