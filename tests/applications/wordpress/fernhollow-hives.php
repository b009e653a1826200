<?php
/**
 * Plugin Name: Fernhollow Hives
 * Description: The hives of a cooperative, for its members.
 */

if ( ! defined( 'ABSPATH' ) ) {
	exit;
}

add_action( 'rest_api_init', 'fernhollow_routes' );
add_action( 'wp_ajax_fernhollow_rename', 'fernhollow_rename' );
add_action( 'wp_ajax_nopriv_fernhollow_find', 'fernhollow_find' );
add_action( 'admin_post_fernhollow_export', 'fernhollow_export' );
add_shortcode( 'hives', 'fernhollow_shortcode' );

function fernhollow_routes() {
	register_rest_route(
		'fernhollow/v1',
		'/hives/(?P<id>\d+)',
		array(
			'methods'             => 'GET',
			'callback'            => 'fernhollow_hive',
			'permission_callback' => function () {
				return current_user_can( 'read' );
			},
		)
	);
	register_rest_route(
		'fernhollow/v1',
		'/swarms',
		array(
			'methods'             => 'GET',
			'callback'            => 'fernhollow_swarms',
			'permission_callback' => '__return_true',
		)
	);
}

function fernhollow_hive( WP_REST_Request $request ) {
	global $wpdb;
	return $wpdb->get_row( $wpdb->prepare( "SELECT id, name FROM {$wpdb->prefix}hives WHERE id = %d", $request['id'] ) );
}

function fernhollow_swarms( WP_REST_Request $request ) {
	global $wpdb;
	$order = in_array( $request['order'], array( 'place', 'seen_on' ), true ) ? $request['order'] : 'seen_on';
	$rows  = $wpdb->get_results( "SELECT id, place FROM {$wpdb->prefix}swarms ORDER BY $order" );
	$near  = $wpdb->get_results( "SELECT id, place FROM {$wpdb->prefix}swarms WHERE district = '" . $request['district'] . "'" ); // weak: injection/sql
	return array( $rows, $near );
}

function fernhollow_rename() {
	global $wpdb;
	check_ajax_referer( 'fernhollow' );
	$wpdb->update( $wpdb->prefix . 'hives', array( 'name' => sanitize_text_field( wp_unslash( $_POST['name'] ) ) ), array( 'id' => absint( $_POST['id'] ), 'keeper' => get_current_user_id() ) );
	wp_send_json_success();
}

function fernhollow_find() {
	global $wpdb;
	$part = wp_unslash( $_GET['part'] );
	$like = '%' . $wpdb->esc_like( $part ) . '%';
	$rows = $wpdb->get_results( $wpdb->prepare( "SELECT id, name FROM {$wpdb->prefix}hives WHERE name LIKE %s", $like ) );
	echo '<h2>Hives like ' . esc_html( $part ) . '</h2>';
	echo '<input value="' . esc_attr( $part ) . '">';
	echo '<p>' . $part . '</p>'; // weak: injection/page-output
	wp_die();
}

function fernhollow_export() {
	if ( ! current_user_can( 'manage_options' ) ) {
		wp_die( 'not allowed' );
	}
	check_admin_referer( 'fernhollow_export' );
	readfile( WP_CONTENT_DIR . '/exports/' . basename( wp_unslash( $_GET['file'] ) ) );
	exec( 'zip -r /tmp/all.zip ' . wp_unslash( $_GET['folder'] ) ); // weak: injection/command
	wp_safe_redirect( wp_unslash( $_GET['back'] ) );
	exit;
}

function fernhollow_shortcode( $atts ) {
	$atts = shortcode_atts( array( 'title' => 'Hives' ), $atts );
	return '<h2>' . esc_html( $atts['title'] ) . '</h2>';
}
