# The steps of .ci/run, one by one or all: `just`, `just clippy`, `just tests`.

# All that has to pass before anything lands.
ci:
    .ci/run

# A single step of it.
formatting:
    .ci/run formatting

clippy:
    .ci/run clippy

documentation:
    .ci/run documentation

tests:
    .ci/run tests

examples:
    .ci/run examples

library:
    .ci/run library

spelling:
    .ci/run spelling

# Pages and schemas that are written from the program.
pages:
    cargo run -q -p kairotic-core --example findings_page > docs/findings.md
    cargo run -q -p kairotic-formats --example board_schema > docs/board-file.schema.json
    cargo run -q -p kairotic -- parts --format markdown > docs/silicon-coverage.md
    KAIROTIC_WRITE_SCHEMA=1 cargo test -q -p kairotic --test it schema

# The pictures of the README.
screenshots:
    scripts/screenshots
