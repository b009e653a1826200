using Bellator.Audit.Checks;

namespace Bellator.Core.Tests;

/// <summary>Addresses that the server itself asks (CWE-918): who chooses the host, and what a test of the host vouches for.</summary>
public sealed class ServerRequestTests
{
    private const string Express = "const express = require('express'), axios = require('axios'), https = require('https'), fetch = require('node-fetch');\nconst app = express(); app.use(express.json());\nconst HOSTS = ['a.example', 'b.example'];\n";
    private const string Flask = "import requests, httpx, urllib.request\nfrom urllib.parse import urlparse\nfrom flask import Flask, request\napp = Flask(__name__)\n@app.route('/a')\ndef a():\n";

    [Theory]
    [InlineData("const r = await axios.get(req.query.u); res.json(r.data);", true)]
    [InlineData("const r = await axios({ method: 'get', url: req.body.u }); res.json(r.data);", true)]
    [InlineData("const r = await fetch(`https://${req.query.host}/state`); res.json(await r.json());", true)]
    [InlineData("https.get({ host: req.query.h, path: '/' }, r => r.pipe(res));", true)]
    [InlineData("const u = new URL(req.query.u); const r = await fetch(u); res.json(await r.json());", true)]
    [InlineData("if (!req.query.u.startsWith('https://api.fernhollow.example')) return res.end(); const r = await fetch(req.query.u); res.json(await r.json());", true)]
    [InlineData("if (!req.query.u.startsWith('https://api.fernhollow.example/')) return res.end(); const r = await fetch(req.query.u); res.json(await r.json());", false)]
    [InlineData("const r = await fetch(`https://api.fernhollow.example/hives/${req.query.id}`); res.json(await r.json());", false)]
    [InlineData("const r = await fetch(process.env.API + '/hives/' + req.query.id); res.json(await r.json());", false)]
    [InlineData("const u = new URL(req.query.u); if (!HOSTS.includes(u.hostname)) return res.end(); const r = await fetch(u); res.json(await r.json());", false)]
    [InlineData("const u = new URL(req.query.u); if (u.host.toLowerCase() !== 'a.example') return res.end(); const r = await fetch(req.query.u); res.json(await r.json());", false)]
    [InlineData("const u = { a: 'https://a.example/', b: 'https://b.example/' }[req.query.u]; const r = await fetch(u); res.json(await r.json());", false)]
    public void Node(string body, bool isFound) => Assert.Equal(isFound, IsFound("app.js", Express + "app.post('/a', async (req, res) => { " + body + " });\n"));

    [Theory]
    [InlineData("    return requests.get(request.args['u']).text\n", true)]
    [InlineData("    s = requests.Session()\n    return s.get('http://%s:8080/state' % request.args['h']).text\n", true)]
    [InlineData("    return urllib.request.urlopen(urllib.request.Request(request.form['u'])).read()\n", true)]
    [InlineData("    u = request.args['u']\n    if urlparse(u).scheme != 'https':\n        return 'no'\n    return httpx.get(u).text\n", true)]
    [InlineData("    u = request.args['u']\n    if urlparse(u).hostname not in ('a.example', 'b.example'):\n        return 'no'\n    return requests.get(u).text\n", false)]
    [InlineData("    return requests.get('https://a.example/', params={'q': request.args['q']}).text\n", false)]
    public void Python(string body, bool isFound) => Assert.Equal(isFound, IsFound("app.py", Flask + body));

    [Theory]
    [InlineData("$c = curl_init(); curl_setopt($c, CURLOPT_URL, $_GET['u']); curl_exec($c);", true)]
    [InlineData("$c = new GuzzleHttp\\Client(); $c->request('POST', $_POST['hook']);", true)]
    [InlineData("echo file_get_contents('http://' . $_GET['h'] . '/feed') ? 1 : 0;", true)]
    [InlineData("$c = curl_init('https://a.example/'); curl_setopt($c, CURLOPT_POSTFIELDS, $_POST['text']); curl_exec($c);", false)]
    [InlineData("$u = $_GET['u']; if (parse_url($u, PHP_URL_HOST) !== 'a.example') { exit; } curl_init($u);", false)]
    [InlineData("$u = $_GET['u']; $p = parse_url($u); if (!in_array($p['host'], ['a.example', 'b.example'], true)) { exit; } curl_init($u);", false)]
    [InlineData("$u = $_GET['u']; if (parse_url($u, PHP_URL_SCHEME) !== 'https') { exit; } curl_init($u);", true)]
    public void Php(string code, bool isFound) => Assert.Equal(isFound, IsFound("a.php", "<?php\n" + code));

    [Theory]
    [InlineData("Net::HTTP.get(URI(params[:u]))", true)]
    [InlineData("HTTParty.get(\"https://#{params[:h]}/x\")", true)]
    [InlineData("uri = URI.parse(params[:u])\n  halt 400 unless %w[a.example b.example].include?(uri.host)\n  Net::HTTP.get(uri)", false)]
    [InlineData("HTTParty.get(\"https://a.example/hives/#{params[:id]}\")", false)]
    public void Ruby(string body, bool isFound) => Assert.Equal(isFound, IsFound("app.rb", "require 'sinatra'\nget '/a' do\n  " + body + "\nend\n"));

    [Theory]
    [InlineData("return Content(await http.GetStringAsync(u));", true)]
    [InlineData("using var own = new HttpClient(); return Content(await own.GetStringAsync($\"https://{u}/x\"));", true)]
    [InlineData("var uri = new Uri(u); if (uri.Host != \"a.example\") return BadRequest(); return Content(await http.GetStringAsync(uri));", false)]
    [InlineData("return Content(await http.GetStringAsync($\"https://a.example/hives/{u}\"));", false)]
    public void CSharp(string body, bool isFound) => Assert.Equal(isFound, IsFound("A.cs", "using Microsoft.AspNetCore.Mvc;\npublic class AController(HttpClient http) : Controller { [HttpGet(\"/a\")] public async Task<IActionResult> A(string u) { " + body + " } }\n"));

    [Fact]
    public void The_witness_names_the_host_that_is_asked()
    {
        var found = Auditor.Run(("app.js", Express + "app.get('/a', async (req, res) => { const r = await fetch(`https://${req.query.host}/state`); res.json(await r.json()); });\n")).Findings.Single(f => f.CheckId == "injection/server-request");
        Assert.Equal(Certainty.Proved, found.Certainty);
        Assert.Equal("https://elsewhere.example//state", found.Witness!.Crafted);
    }

    private static bool IsFound(string path, string code) => Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "injection/server-request");
}
