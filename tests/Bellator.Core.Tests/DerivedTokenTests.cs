namespace Bellator.Core.Tests;

/// <summary>Tokens that are digests of what others know. RFC 9562: UUIDs of version 3 and 5 are MD5 and SHA-1 of a name.</summary>
public sealed class DerivedTokenTests
{
    [Theory]
    [InlineData("a.php", "<?php function trust($member) { $token = sha1($member['id'] . ':' . $member['email']); setcookie('trust', $token); }")]
    [InlineData("a.php", "<?php $row['api_token'] = md5(strtolower($row['email']) . time()); save($row);")]
    [InlineData("a.php", "<?php class User { function activationToken() { return hash('sha256', $this->id . $this->created_at); } }")]
    [InlineData("a.py", "import uuid\ndef feed(member):\n    member.feed_token = str(uuid.uuid5(uuid.NAMESPACE_URL, f\"feed/{member.email}\"))\n")]
    [InlineData("a.py", "import hashlib\ndef issue(user):\n    token = hashlib.sha256(f'{user.id}-{user.username}'.encode()).hexdigest()\n    return token\n")]
    [InlineData("a.rb", "class User < ApplicationRecord\n  def prepare\n    update!(confirm_token: Digest::MD5.hexdigest(\"#{email}#{Time.current.to_i}\"))\n  end\nend\n")]
    [InlineData("a.js", "const crypto = require('crypto');\nfunction issue(user) { const token = crypto.createHash('sha1').update(user.email).digest('hex'); return save({ userId: user.id, token }); }")]
    [InlineData("a.js", "const crypto = require('crypto');\nfunction unsubscribeToken(user) { return crypto.createHash('md5').update(`${user.id}:${user.email}`).digest('hex'); }")]
    [InlineData("a.cs", "using System.Security.Cryptography; using System.Text;\npublic class Links { public string ConfirmationToken(User user) { return Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(user.Email + user.Id))); } }")]
    public void Whoever_knows_the_parts_computes_the_token(string path, string code) => Assert.Contains("sessions/predictable-token", Found(path, code));

    [Theory]
    [InlineData("a.php", "<?php function trust($member) { $token = bin2hex(random_bytes(32)); $hash = hash('sha256', $token); keep($member['id'], $hash); }")]
    [InlineData("a.php", "<?php function trust($member, $secret) { $token = sha1($member['id'] . $secret); setcookie('trust', $token); }")]
    [InlineData("a.php", "<?php function trust($member) { $token = sha1($member['id'] . APP_KEY); setcookie('trust', $token); }")]
    [InlineData("a.php", "<?php function trust($member) { $token = sha1($member['id'] . $member['password_hash']); setcookie('trust', $token); }")]
    [InlineData("a.php", "<?php function trust($member) { $token = sha1($member['email'] . random_int(0, PHP_INT_MAX)); setcookie('trust', $token); }")]
    [InlineData("a.php", "<?php function picture($member) { $picture = md5(strtolower($member['email'])); return $picture; }")]
    [InlineData("a.php", "<?php $csrf_token = sha1($member['id'] . time());")]
    [InlineData("a.py", "import hashlib\ndef find(token):\n    token_hash = hashlib.sha256(token.encode()).hexdigest()\n    return rows.get(token_hash)\n")]
    [InlineData("a.py", "import uuid\ndef feed(member):\n    member.feed_token = str(uuid.uuid4())\n")]
    [InlineData("a.py", "import hmac, hashlib\ndef issue(user):\n    token = hmac.new(SECRET, str(user.id).encode(), hashlib.sha256).hexdigest()\n    return token\n")]
    [InlineData("a.rb", "class User < ApplicationRecord\n  def reset_token\n    Digest::SHA256.hexdigest(\"#{id}#{password_digest}\")\n  end\nend\n")]
    [InlineData("a.js", "const crypto = require('crypto');\nfunction issue(user) { const token = crypto.createHash('sha1').update(user.email + crypto.randomBytes(16)).digest('hex'); return token; }")]
    [InlineData("a.js", "const crypto = require('crypto');\nfunction etag(body) { const tag = crypto.createHash('sha1').update(body.id).digest('hex'); return tag; }")]
    public void A_secret_or_chance_is_in_it_or_it_is_no_token(string path, string code) => Assert.DoesNotContain("sessions/predictable-token", Found(path, code));

    private static List<string> Found(string path, string code) => [.. Auditor.Run((path, code)).Findings.Select(f => f.CheckId)];
}
