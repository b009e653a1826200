class Inspector < ApplicationRecord
  has_secure_password
  has_many :planned_visits

  validates :email, presence: true, uniqueness: { case_sensitive: false }
  validates :password, length: { minimum: 12, maximum: 72 }, allow_nil: true
end
