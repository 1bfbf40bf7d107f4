// The report of a design. Its content comes as JSON (documents/content.py); here is only how it looks on paper.
#let content = json(bytes(sys.inputs.content))
#let ink = rgb("#26231e")
#let soft = rgb("#635b4f")
#let line-colour = rgb("#d3c9b8")
#let colours = (pass: rgb("#2f6244"), watch: rgb("#5a4691"), fail: rgb("#9c1c36"), unknown: soft)
#let severities = (stop: ("Stop", colours.fail), fix: ("To mend", colours.fail), watch: ("Watch", colours.watch), note: ("Note", soft))
#let sans = ("Hanken Grotesk", "Hanken Grotesk Ext", "Libertinus Serif")

#set document(title: content.title, description: content.summary, keywords: ("power", "battery", "design"))
#set page(
  paper: sys.inputs.paper,
  margin: (x: 20mm, top: 18mm, bottom: 20mm),
  footer: context [
    #set text(8pt, fill: soft)
    #content.title #h(1fr) #counter(page).display("1 / 1", both: true)
  ],
)
#set text(font: sans, size: 9.5pt, fill: ink, lang: "en", number-width: "tabular")
#set par(leading: 0.55em, spacing: 0.8em)
#show heading: set text(font: ("Fraunces", "Libertinus Serif"), weight: 600)
#show heading.where(level: 1): it => block(above: 1.6em, below: 0.7em, sticky: true, text(15pt, it.body))
#show heading.where(level: 2): it => block(above: 1.1em, below: 0.5em, sticky: true, text(11pt, it.body))

// A status by its shape as well: a round seal, a leaning diamond, a square, a ring.
#let mark(status) = if status == "" { none } else {
  box(baseline: 0.5pt, width: 7pt, height: 7pt, if status == "pass" { circle(radius: 3.2pt, fill: colours.pass) }
  else if status == "watch" { rotate(45deg, square(size: 5pt, fill: colours.watch)) }
  else if status == "fail" { square(size: 6pt, fill: colours.fail) }
  else { circle(radius: 2.8pt, stroke: 1pt + soft) })
  h(3pt)
}

#let show-table(block) = {
  let columns = block.head.len()
  let first = if columns > 3 and block.figures == 4 { (1.3fr, auto, 2fr, 1.3fr) } else { (1fr,) + (auto,) * (columns - 1) }
  table(
    columns: first,
    stroke: (x, y) => (bottom: 0.4pt + line-colour),
    inset: (x: 3pt, y: 3.2pt),
    align: (x, y) => if x == 0 or block.figures == 4 { left } else { right },
    table.header(..block.head.map(h => text(8pt, fill: soft, h))),
    ..block.rows.enumerate().map(((i, row)) => row.enumerate().map(((k, cell)) => [
      #if k == 0 and block.status.len() > i { mark(block.status.at(i)) }#cell
    ])).flatten(),
  )
}

#let show-block(block) = {
  if block.title != "" and block.kind == "table" { heading(level: 2, block.title) }
  if block.kind == "text" { par(block.text) }
  else if block.kind == "table" { show-table(block) }
  else if block.kind == "picture" { image(bytes(block.svg), format: "svg", alt: block.text, width: if block.wide_mm > 0 { block.wide_mm * 1mm } else { 100% }) }
  else if block.kind == "finding" {
    let (word, colour) = severities.at(block.severity)
    std.block(breakable: false, above: 0.9em, below: 0.9em)[
      #text(8pt, fill: colour, weight: 600, word) #h(3pt) #text(weight: 600, block.title) \
      #text(fill: soft, block.text)
    ]
  }
}

#grid(
  columns: (1fr, 62mm),
  gutter: 8mm,
  align: horizon,
  [
    #text(font: ("Fraunces", "Libertinus Serif"), weight: 600, size: 26pt, title())
    #text(fill: soft, content.summary)
  ],
  image(bytes(content.picture), format: "svg", alt: content.title, width: 62mm),
)

#for chapter in content.chapters {
  heading(level: 1, chapter.title)
  for block in chapter.blocks { show-block(block) }
}

#v(1em)
#text(8pt, fill: soft, content.closing)

#pdf.attach("design.json", bytes(sys.inputs.design), relationship: "source", mime-type: "application/json", description: "The design document")
