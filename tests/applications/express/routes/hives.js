const path = require('path');
const fs = require('fs/promises');
const { execFile, exec } = require('child_process');
const { Router } = require('express');
const { z } = require('zod');
const Hive = require('../models/hive');

const router = Router();
const EXPORTS = path.join(__dirname, '..', 'exports');

const hiveShape = z.object({ name: z.string().max(80), frames: z.number().int().min(1).max(40) }).strict();

router.get('/', async (req, res) => {
  const filter = { keeper: req.session.keeperId, name: String(req.query.name ?? '') };
  res.json(await Hive.find(filter));
});

router.get('/search', async (req, res) => {
  const part = req.query.part;
  const hives = await Hive.find({ name: new RegExp(part, 'i'), keeper: req.session.keeperId }); // weak: injection/pattern-from-input
  res.render('found', { part, hives });
});

router.get('/raw', async (req, res) => {
  res.json(await Hive.find({ $where: 'this.frames > ' + req.query.frames })); // weak: injection/code
});

router.post('/', async (req, res) => {
  const shape = hiveShape.parse(req.body);
  const hive = await Hive.create({ ...shape, keeper: req.session.keeperId });
  res.status(201).json(hive);
});

router.put('/:id', async (req, res) => {
  await Hive.updateOne({ _id: String(req.params.id), keeper: req.session.keeperId }, { $set: hiveShape.parse(req.body) });
  res.redirect(req.query.next); // weak: injection/redirect
});

router.get('/export/:file', async (req, res) => {
  res.send(await fs.readFile(path.join(EXPORTS, req.params.file))); // weak: injection/path
});

router.get('/download/:file', (req, res) => {
  res.sendFile(req.params.file, { root: EXPORTS });
});

router.post('/:id/label', (req, res) => {
  execFile('lp', ['-d', String(req.body.printer), '/var/labels/hive.pdf']);
  exec(`lp -d ${req.body.printer} /var/labels/hive.pdf`, () => res.sendStatus(204)); // weak: injection/command
});

module.exports = router;
