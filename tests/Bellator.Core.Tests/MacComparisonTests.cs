namespace Bellator.Core.Tests;

/// <summary>What came in, held against a digest that only who has the key can make, by a comparison that ends at the first difference (CWE-208).</summary>
public sealed class MacComparisonTests
{
    private const string Node = "const crypto = require('crypto');\nconst mac = (v, k) => crypto.createHmac('sha256', k).update(v).digest('hex');\n";

    [Theory]
    [InlineData("exports.ok = (body, sent, key) => mac(body, key) === sent;", true)]
    [InlineData("exports.ok = (body, sent, key) => 'sha256=' + mac(body, key) == sent;", true)]
    [InlineData("exports.ok = (token, key) => { const [body, sent] = token.split('.'); if (sent !== mac(body, key)) { throw new Error('no'); } return body; };", true)]
    [InlineData("exports.ok = (body, sent, key) => Buffer.from(mac(body, key)).equals(Buffer.from(sent));", true)]
    [InlineData("exports.ok = (body, sent, key) => crypto.timingSafeEqual(Buffer.from(mac(body, key)), Buffer.from(sent));", false)]
    [InlineData("exports.ok = (body, sent, key) => mac(mac(body, key), key) === mac(sent, key);", false)]
    [InlineData("exports.ok = (body, key) => mac(body, key) === '';", false)]
    [InlineData("exports.same = (body, sent) => crypto.createHash('sha256').update(body).digest('hex') === sent;", false)]
    public void In_Node(string code, bool isFound) => Assert.Equal(isFound, IsFound("a.js", Node + code));

    [Theory]
    [InlineData("a.py", "import hmac, hashlib\ndef ok(token, key):\n    body, sent = token.rsplit('.', 1)\n    return sent == hmac.new(key, body.encode(), hashlib.sha256).hexdigest()\n", true)]
    [InlineData("a.py", "import hmac, hashlib\ndef ok(token, key):\n    body, sent = token.rsplit('.', 1)\n    return hmac.compare_digest(sent, hmac.new(key, body.encode(), hashlib.sha256).hexdigest())\n", false)]
    [InlineData("a.py", "import hashlib\nclass Signer:\n    def sign(self, v):\n        return hashlib.sha256((self.key + v).encode()).hexdigest()\n    def ok(self, v, sent):\n        return self.sign(v) == sent\n", true)]
    [InlineData("a.py", "import hashlib\ndef same(data):\n    return data[:32] == hashlib.md5(data[32:]).hexdigest()\n", false)]
    [InlineData("a.rb", "class Hook\n  def ok?(body, sent)\n    'sha256=' + OpenSSL::HMAC.hexdigest('SHA256', ENV['HOOK'], body) == sent\n  end\nend\n", true)]
    [InlineData("a.rb", "class Hook\n  def ok?(body, sent)\n    ActiveSupport::SecurityUtils.secure_compare(OpenSSL::HMAC.hexdigest('SHA256', ENV['HOOK'], body), sent)\n  end\nend\n", false)]
    [InlineData("a.php", "<?php class T { function open($data) { $sent = substr($data, 0, 32); $rest = substr($data, 32); if ($sent != $this->mark($rest)) { throw new Exception('no'); } return $rest; } function mark($d) { return md5($this->seed . $d); } }", true)]
    [InlineData("a.php", "<?php class T { function open($data) { return strcmp(hash_hmac('sha256', substr($data, 64), $this->key), substr($data, 0, 64)) === 0; } }", true)]
    [InlineData("a.php", "<?php class T { function open($data) { return hash_equals(hash_hmac('sha256', substr($data, 64), $this->key), substr($data, 0, 64)); } }", false)]
    [InlineData("a.php", "<?php function fresh($rows) { return md5('v1' . count($rows) . $rows[0]) == $_SERVER['HTTP_IF_NONE_MATCH']; }", false)]
    [InlineData("A.cs", "using System.Linq;\npublic class A { public bool Ok(byte[] body, byte[] sent, byte[] key) { using var h = new HMACSHA256(key); return h.ComputeHash(body).SequenceEqual(sent); } }", true)]
    [InlineData("A.cs", "public class A { public bool Ok(byte[] body, byte[] sent, byte[] key) { return CryptographicOperations.FixedTimeEquals(HMACSHA256.HashData(key, body), sent); } }", false)]
    public void In_other_languages(string path, string code, bool isFound) => Assert.Equal(isFound, IsFound(path, code));

    private static bool IsFound(string path, string code) => Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "sessions/token-compare-timing");
}
