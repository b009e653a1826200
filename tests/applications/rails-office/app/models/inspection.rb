class Inspection < ActiveRecord::Base
  belongs_to :apiary
end
