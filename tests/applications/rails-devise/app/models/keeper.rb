class Keeper < ApplicationRecord
  devise :database_authenticatable, :registerable, :recoverable, :rememberable, :validatable
  has_many :hives
  def office? = role == "office"
end
