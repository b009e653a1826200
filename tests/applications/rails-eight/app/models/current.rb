class Current < ActiveSupport::CurrentAttributes
  attribute :session
  delegate :keeper, to: :session, allow_nil: true
end
