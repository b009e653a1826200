class Principal < ActiveRecord::Base
  self.table_name = "#{table_name_prefix}keepers"
end
