// What failed is told by the lines of its source.
process.setSourceMapsEnabled(true)

// A process of tests does not outlive the run, also where the run is killed.
process.once('disconnect', () => process.exit())
