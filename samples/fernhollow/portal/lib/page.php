<?php
// Head and foot of every page.
function h($text)
{
    return htmlspecialchars($text ?? '', ENT_QUOTES);
}

function page_head($title)
{
    echo '<!DOCTYPE html><html lang="en"><head><title>' . h($title) . ' - ' . h(SITE_NAME) . '</title>';
    echo '<link rel="stylesheet" href="/portal/style.css?v=' . md5(SITE_NAME . '7') . '"></head><body>';
    echo '<h1>' . h($title) . '</h1>';
}

function page_foot()
{
    echo '<p><a href="/portal/">Portal</a></p></body></html>';
}

function table($rows, $columns)
{
    echo '<table><tr>';
    foreach ($columns as $title) {
        echo '<th>' . h($title) . '</th>';
    }
    echo '</tr>';
    foreach ($rows as $row) {
        echo '<tr>';
        foreach (array_keys($columns) as $key) {
            echo '<td>' . h($row[$key]) . '</td>';
        }
        echo '</tr>';
    }
    echo '</table>';
}
