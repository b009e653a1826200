class CreatePrincipals < ActiveRecord::Migration[6.1]
  def up
    create_table :keepers do |t|
      t.column :login, :string, limit: 30, null: false
      t.column :hashed_password, :string, limit: 40, null: false
      t.column :salt, :string, limit: 64
      t.column :mail, :string, limit: 60
      t.column :admin, :boolean, default: false
      t.column :status, :integer
      t.column :type, :string
    end
    create_table :tokens do |t|
      t.references :keeper
      t.string :action, limit: 30
      t.string :value, limit: 40
      t.datetime :created_on
    end
    create_table :auth_sources do |t|
      t.string :host
      t.string :account
      t.string :account_password
    end
    create_table :apiaries do |t|
      t.string :name
      t.string :digest, limit: 64
      t.references :keeper
    end
    create_table :inspections do |t|
      t.references :apiary
      t.string :finding
    end
  end
end
