"""Every screen, one row each: a new one is its folder and a row here."""

from __future__ import annotations

import re
from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from grainet.desk.screens.screen import Screen


@dataclass(frozen=True)
class ScreenRow:
    """A screen's name, key and label, where its class is, and whether it is a station of the rail."""

    name: str
    key: str
    label: str
    module: str
    class_name: str
    station: bool = False

    @property
    def camel(self) -> str:
        """The name as objects in the window have it."""
        return re.sub(r"_(\w)", lambda m: m[1].upper(), self.name)

    def load(self) -> type[Screen]:
        """The class; its module is read when first asked for."""
        found: type[Screen] = getattr(import_module(f"grainet.desk.screens.{self.module}"), self.class_name)
        return found


ROWS = (
    ScreenRow("bring_in", "F2", "Bring in", "bring_in.screen", "BringIn", station=True),
    ScreenRow("look_over", "F3", "Look over", "look_over.screen", "LookOver", station=True),
    ScreenRow("draw_up", "F4", "Draw up", "draw_up.screen", "DrawUp", station=True),
    ScreenRow("lay_out", "F5", "Lay out", "lay_out.screen", "LayOut", station=True),
    ScreenRow("match", "F6", "Match", "match.screen", "Match", station=True),
    ScreenRow("saw_and_wait", "F7", "Saw", "saw.screen", "SawAndWait", station=True),
    ScreenRow("glue", "F8", "Glue", "glue.screen", "Glue", station=True),
    ScreenRow("put_back", "F9", "Put back", "put_back.screen", "PutBack", station=True),
    ScreenRow("alternatives", "Ctrl+Shift+C", "Plans side by side", "alternatives.screen", "Alternatives"),
    ScreenRow("buy_list", "Ctrl+B", "Buy list", "buy_list.screen", "BuyList"),
    ScreenRow("become", "Ctrl+Shift+B", "What the wood can become", "become.screen", "BecomeScreen"),
    ScreenRow("order", "Ctrl+J", "Order of the steps", "order.screen", "Order"),
    ScreenRow("days", "Ctrl+Shift+J", "Days of all builds", "days.screen", "DaysScreen"),
    ScreenRow("learnt", "Ctrl+Shift+W", "What was learnt", "learnt.screen", "LearntScreen"),
    ScreenRow("story", "Ctrl+Shift+H", "The story of an instrument", "story.screen", "StoryScreen"),
    ScreenRow("month", "Ctrl+Shift+M", "The wood of a month", "month.screen", "MonthScreen"),
    ScreenRow("outline", "Ctrl+Shift+D", "Outline of the body", "outline.screen", "OutlineScreen"),
    ScreenRow("strips", "Ctrl+Shift+N", "Neck of strips", "strips.screen", "StripsScreen"),
    ScreenRow("rescue", "Ctrl+Shift+R", "Ways out for a part", "rescue.screen", "RescueScreen"),
    ScreenRow("sort_rack", "F11", "Sort the rack", "sort_rack.screen", "SortRack"),
    ScreenRow("plots", "Ctrl+Shift+P", "Plots", "plots.screen", "Plots"),
    ScreenRow("kit_book", "Ctrl+K", "Kit book", "shop_profile.screen", "KitBook"),
    ScreenRow("guide", "F1", "Guide", "guide.screen", "GuideScreen"),
    ScreenRow("aside", "Ctrl+Shift+A", "See what was set aside", "aside.screen", "AsideScreen"),
    ScreenRow("beside", "Ctrl+Alt+O", "Another shop beside this one", "beside.screen", "BesideScreen"),
    ScreenRow("photo", "", "Photo", "photo.screen", "PhotoScreen"),
    ScreenRow("stock_list", "", "A list of stock", "stock_list.screen", "StockList"),
    ScreenRow("first_start", "", "First start", "bring_in.first_start", "FirstStart"),
)
SCREENS = {row.name: row for row in ROWS}
STATIONS = tuple(row for row in ROWS if row.station)
