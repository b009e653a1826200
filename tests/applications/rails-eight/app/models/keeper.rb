class Keeper < ApplicationRecord
  has_secure_password
  has_many :sessions, dependent: :destroy
  has_many :hives, dependent: :destroy

  normalizes :email_address, with: ->(e) { e.strip.downcase }
  validates :email_address, presence: true, uniqueness: true
  validates :password, length: { minimum: 12, maximum: 72 }, allow_nil: true
end
