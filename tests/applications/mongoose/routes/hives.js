const router = require('express').Router();
const Hive = require('../models/Hive');
const { protect, asyncHandler } = require('../middleware');

router.use(protect);

router.route('/')
  .get(asyncHandler(async (req, res) => {
    res.json(await Hive.find({ keeper: req.keeper._id }));
  }))
  .post(asyncHandler(async (req, res) => {
    const { name, location } = req.body;
    res.status(201).json(await Hive.create({ name, location, keeper: req.keeper.id }));
  }));

router.get('/search', asyncHandler(async (req, res) => {
  const found = await Hive.find({ keeper: req.keeper._id, name: new RegExp(req.query.q, 'i') }); // weak: injection/pattern-from-input
  res.json(found);
}));

router.get('/all', asyncHandler(async (req, res) => {
  const query = Hive.find(req.query); // weak: injection/nosql-operator, records/no-owner-condition
  res.json(await query.select('name').limit(20));
}));

router.get('/where', asyncHandler(async (req, res) => {
  res.json(await Hive.find({ keeper: req.keeper._id, $where: `this.name == '${req.query.name}'` })); // weak: injection/code
}));

router.route('/:id')
  .get(asyncHandler(async (req, res) => {
    const hive = await Hive.findById(req.params.id).populate('keeper'); // weak: records/no-owner-condition, exposure/hash-in-response
    if (!hive) return res.status(404).json({ message: 'not found' });
    res.json(hive);
  }))
  .put(asyncHandler(async (req, res) => {
    let hive = await Hive.findById(req.params.id);
    if (!hive) return res.status(404).end();
    if (hive.keeper.toString() !== req.keeper.id) return res.status(403).end();
    hive = await Hive.findByIdAndUpdate(req.params.id, req.body, { new: true }); // weak: injection/mass-assignment
    res.json(hive);
  }))
  .delete(asyncHandler(async (req, res) => {
    await Hive.findByIdAndDelete(req.params.id); // weak: records/no-owner-condition
    res.json({ success: true });
  }));

router.post('/:id/notes', asyncHandler(async (req, res) => {
  const hive = await Hive.findOne({ _id: req.params.id, keeper: req.keeper._id });
  if (!hive) return res.status(404).end();
  hive.notes.push({ text: req.body.text, at: new Date() });
  await hive.save();
  res.status(201).json(hive);
}));

module.exports = router;
