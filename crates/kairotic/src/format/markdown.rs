//! Markdown: the same blocks as in text, as headings and tables.

use crate::hints;

use super::page::{Align, Cell, Line, Page, PageBlock};

/// The page.
pub(super) fn render(page: &Page) -> String {
    let heading: Vec<String> = page.heading.iter().map(|part| escaped(part)).collect();
    let mut out = format!("## {}\n", heading.join(" · "));
    for block in &page.blocks {
        out.push_str(&format!("\n### {}\n\n", block.word));
        render_block(&mut out, block);
    }
    out
}

fn render_block(out: &mut String, block: &PageBlock) {
    let rows: Vec<&Vec<Cell>> = block
        .lines
        .iter()
        .filter_map(|line| if let Line::Row(cells) = line { Some(cells) } else { None })
        .collect();
    for (index, line) in block.lines.iter().enumerate() {
        match line {
            Line::Prose(text) => {
                // A paragraph of its own: Markdown joins lines.
                let gap = if index == 0 { "" } else { "\n" };
                out.push_str(&format!("{gap}{}\n", escaped(text)));
            }
            Line::Finding(finding) => out.push_str(&format!(
                "- **{}** ({}): {}. Remedy: {}.\n",
                finding.name(),
                finding.severity().word(),
                escaped(&finding.to_string()),
                escaped(&hints::of_finding(finding))
            )),
            Line::Verbatim(_) | Line::Row(_) => {}
        }
    }
    let verbatim = block.lines.iter().filter_map(|line| match line {
        Line::Verbatim(text) => Some(format!("    {text}\n")),
        _ => None,
    });
    out.extend(verbatim);
    let Some(columns) = rows.iter().map(|cells| cells.len()).max() else { return };
    if rows.len() < block.lines.len() {
        out.push('\n');
    }
    let names = (0..columns).map(|index| block.columns.get(index).copied().unwrap_or_default());
    out.push_str(&row(names.map(ToOwned::to_owned)));
    let rules = (0..columns).map(|index| {
        let numbers = rows.iter().filter_map(|cells| cells.get(index)).all(|cell| cell.align != Align::Left);
        (if numbers { "---:" } else { "---" }).to_owned()
    });
    out.push_str(&row(rules));
    for cells in rows {
        let blanks = std::iter::repeat_n(String::new(), columns - cells.len());
        out.push_str(&row(cells.iter().map(|cell| escaped(&cell.text)).chain(blanks)));
    }
}

fn row(cells: impl Iterator<Item = String>) -> String {
    format!("| {} |\n", cells.collect::<Vec<_>>().join(" | "))
}

/// Text that Markdown takes as it stands.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in text.chars() {
        if matches!(character, '|' | '*' | '_' | '`' | '<' | '\\') {
            out.push('\\');
        }
        out.push(character);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_means_something_to_markdown_is_escaped() {
        assert_eq!(escaped("2*top | A_INV `x` <y> \\"), "2\\*top \\| A\\_INV \\`x\\` \\<y> \\\\");
    }

    #[test]
    fn short_rows_are_filled_up_and_numbers_stand_at_the_right() {
        let mut page = Page::headed(["here".to_owned()]);
        let row = |cells: Vec<Cell>| Line::Row(cells);
        page.push(
            "write",
            &["field", "value"],
            vec![row(vec![Cell::left("PSC"), Cell::value(39)]), row(vec![Cell::left("ARR")])],
        );
        let shown = render(&page);
        assert_eq!(
            shown,
            "## here\n\n### write\n\n| field | value |\n| --- | ---: |\n| PSC | 39 |\n| ARR |  |\n"
        );
    }
}
