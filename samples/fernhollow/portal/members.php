<?php
// Search for members by name.
require 'lib/session.php';
require 'lib/members.php';
require 'lib/page.php';

require_member();
$text = trim($_GET['q'] ?? '');
$rows = find_members($db, $text, $_GET['sort'] ?? 'name');
page_head('Members');
?>
<form><input name="q" value="<?= h($text) ?>"> <button>Search</button></form>
<?php
table($rows, ['name' => 'Name', 'district' => 'District']);
page_foot();
