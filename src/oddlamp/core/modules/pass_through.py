"""The program that makes a board the adapter of its module: it passes on everything between the USB plug and the module's pins."""

from typing import Final, NamedTuple

from oddlamp.core.parts.packages import PackageNames

USB_BD: Final = 115_200
SOFTWARE_MOST_BD: Final = 57_600  # what a program hears without a port of the chip's own; from memory
SPEED_NAME: Final = "MODULE_SPEED"


class Between(NamedTuple):
    """Where the module hangs on the board: a serial port of the chip's own, or the pins the module speaks and hears on."""

    port: int | None
    speaks_on: str = ""
    hears_on: str = ""


def pass_through_program(between: Between, speed_bd: int, names: PackageNames) -> str:
    """Print the program, C++11, for the board packages that hobbyists use.

    Args:
        between: where the module hangs.
        speed_bd: what it is set to, Bd.
        names: what the board's package calls its ports.
    """
    if between.port is not None:
        name = names.port.format(number=between.port)
        head: list[str] = []
    else:
        name = "module"
        head = [
            f"#include <{names.software_serial_header}>",
            "",
            f"const int MODULE_SPEAKS_ON = {between.speaks_on};  // the pin that the module's TX hangs on",
            f"const int MODULE_HEARS_ON = {between.hears_on};  // the pin that its RX hangs on, through the plan's level shift",
            f"{names.software_serial} module(MODULE_SPEAKS_ON, MODULE_HEARS_ON);",
            "",
        ]
    lines = [
        "// The board as the module's adapter: what is typed at the USB plug goes to the module, its answers come back.",
        "// Put the lamps' own program back afterwards.",
        *head,
        f"const long {SPEED_NAME} = {speed_bd};  // change it where a step says so, and upload again",
        "",
        "void setup() {",
        f"  {names.usb}.begin({USB_BD});",
        f"  {name}.begin({SPEED_NAME});",
        "}",
        "",
        "void loop() {",
        f"  if ({name}.available()) {names.usb}.write({name}.read());",
        f"  if ({names.usb}.available()) {name}.write({names.usb}.read());",
        "}",
    ]
    return "\n".join(lines) + "\n"
