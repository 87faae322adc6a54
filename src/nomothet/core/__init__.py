"""The computing core: every figure that Nomothet shows is defined here, as docs/method.md says.

Pure computation on arrays and plain values: nothing in it reads a clock, a file or a setting. What it finds is a number
or a `Note`, a code with its values; `nomothet.words` makes sentences. Each module is one idea and is imported by its
name, so that a bench that needs one of them does not load the numerics of all:

==================  =====================================================================================
Section of method   Module
==================  =====================================================================================
1 frames            `frames`, `segments` (which of them count), `hitches`, `distribution`, `alignment`
2 passes            `passes` (centre, spread, interval, flags), `pooled_low`
3 comparing         `compare`, `noise`, `margins`
8 load searches     `load_search`
11, 12 limits       `per_second`, `sustained`, `limits`, `shortage`; `pass_analysis` runs them on one pass
13 recording        `overhead`
15 memory           `memory` (arithmetic and slot maps)
16 comparable       `comparable`
17 enough           `enough`
18 readings         `readings`, `units`
19 derived          `derived`, `target`, `specified`
20 parts, settings  `quantities`, `parts`, `settings`, `same_as`, `fit`
21 differences      `differences`
22 plan             `plan_check`
23 order of work    `docket_order`, `change_steps`
24 sensors          `sensors`, `sensor_trust`
all                 `notes`, `errors`
==================  =====================================================================================
"""
