// Copies a whole syntax tree into one array, depth first, so that managed code reads it without a call per node.
// The caller owns the array and gives it back with bellator_free.
#include <stdint.h>
#include <stdlib.h>
#include "tree_sitter/api.h"

// Kept in step with Bellator.Syntax.Parsing.FlatNode.
typedef struct {
  uint16_t symbol;   // grammar symbol
  uint8_t  field;    // field id under the parent, 0 for none (every pinned grammar has fewer than 256)
  uint8_t  flags;    // 1 named, 2 error, 4 missing, 8 extra
  uint32_t start;    // first byte
  uint32_t end;      // byte after the last
  uint32_t next;     // index of the first node after this subtree
} flat_node;

typedef struct { flat_node *nodes; uint32_t count; uint32_t errors; uint32_t cut; } flat_tree;

#define MAX_NODES 40000000u
#define MAX_DEPTH 20000u  // deeper trees are cut: recursion in the readers must not exhaust the stack

int bellator_flatten(const TSTree *tree, flat_tree *out) {
  uint32_t capacity = 1024, count = 0, errors = 0, cut = 0;
  flat_node *nodes = malloc(capacity * sizeof(flat_node));
  uint32_t *open = malloc(MAX_DEPTH * sizeof(uint32_t));
  if (!nodes || !open) { free(nodes); free(open); return -1; }
  TSTreeCursor cursor = ts_tree_cursor_new(ts_tree_root_node(tree));
  uint32_t depth = 0;
  int done = 0;
  while (!done) {
    if (count == capacity) {
      capacity *= 2;
      flat_node *grown = capacity > MAX_NODES ? NULL : realloc(nodes, capacity * sizeof(flat_node));
      if (!grown) { free(nodes); free(open); ts_tree_cursor_delete(&cursor); return -1; }
      nodes = grown;
    }
    TSNode node = ts_tree_cursor_current_node(&cursor);
    flat_node *flat = &nodes[count];
    flat->symbol = ts_node_symbol(node);
    flat->field = (uint8_t)ts_tree_cursor_current_field_id(&cursor);
    int error = flat->symbol == 65535u, missing = ts_node_is_missing(node);
    flat->flags = (uint8_t)((ts_node_is_named(node) ? 1 : 0) | (error ? 2 : 0) | (missing ? 4 : 0) | (ts_node_is_extra(node) ? 8 : 0));
    if (error || missing) errors++;
    flat->start = ts_node_start_byte(node);
    flat->end = ts_node_end_byte(node);
    uint32_t index = count++;
    if (depth + 1 < MAX_DEPTH) {
      if (ts_tree_cursor_goto_first_child(&cursor)) { open[depth++] = index; continue; }
    } else if (ts_node_child_count(node) > 0) {
      cut++;
    }
    nodes[index].next = count;
    while (!ts_tree_cursor_goto_next_sibling(&cursor)) {
      if (depth == 0 || !ts_tree_cursor_goto_parent(&cursor)) { done = 1; break; }
      nodes[open[--depth]].next = count;
    }
  }
  while (depth > 0) nodes[open[--depth]].next = count;
  ts_tree_cursor_delete(&cursor);
  free(open);
  out->nodes = nodes; out->count = count; out->errors = errors; out->cut = cut;
  return 0;
}

void bellator_free(void *nodes) { free(nodes); }
