namespace Bellator.Core.Tests;

/// <summary>A filter that is put together step by step: what is tested before it goes in stays tested, wherever the filter goes.</summary>
public sealed class TestedTypeTests
{
    private const string Head = """
        const express = require('express');
        const { MongoClient } = require('mongodb');
        const app = express();
        app.use(express.json());
        const hives = new MongoClient('mongodb://localhost').db('register').collection('hives');
        app.post('/hives', async (req, res) => {

        """;

    [Theory]
    [InlineData("""
        const filter = {};
        if (typeof req.body.district === 'string') {
          filter.district = req.body.district;
        }
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const { district } = req.body;
        const filter = { active: true };
        if (typeof district !== 'string') {
          return res.status(400).end();
        }
        filter['district'] = district;
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const filter = typeof req.body.district === 'string' ? { district: req.body.district } : {};
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const filter = {};
        if (req.body.district && typeof req.body.district === 'string') filter.district = req.body.district;
        const found = await hives.find({ ...filter, active: true }).toArray();
        res.json(found);
        """)]
    [InlineData("""
        const filter = {};
        for (const key of ['district', 'name']) {
          if (typeof req.body[key] === 'string') filter[key] = req.body[key];
        }
        res.json(await hives.find(filter).toArray());
        """)]
    public void A_tested_part_is_quiet(string body) => Expect(body, []);

    [Theory]
    [InlineData("""
        const filter = {};
        filter.district = req.body.district;
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const filter = {};
        if (typeof req.body.district === 'string') {
          filter.district = req.body.district;
        }
        filter.name = req.body.name;
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const filter = {};
        if (typeof req.body.name === 'string') {
          filter.district = req.body.district;
        }
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const filter = {};
        for (const key of ['district', 'name']) {
          if (typeof req.body.name === 'string') filter[key] = req.body[key];
        }
        res.json(await hives.find(filter).toArray());
        """)]
    [InlineData("""
        const filter = {};
        if (typeof req.body.district === 'object') {
          filter.district = req.body.district;
        }
        res.json(await hives.find(filter).toArray());
        """)]
    public void A_part_that_nobody_tested_is_told(string body) => Expect(body, ["injection/nosql-operator"]);

    private static void Expect(string body, string[] expected) =>
        Assert.Equal(expected, Auditor.Run(("app.js", Head + body + "\n});\n")).Findings.Where(f => f.Area == "injection").Select(f => f.CheckId).Distinct());
}
