class Apiary < ActiveRecord::Base
  belongs_to :keeper
  has_many :inspections
end
