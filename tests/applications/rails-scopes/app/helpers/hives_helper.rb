module HivesHelper
  def badge(record)
    "<span>#{record.id.to_i}</span>".html_safe
  end
  def note_block(record)
    "<p class=\"note\">#{record.note}</p>".html_safe # weak: injection/page-output
  end
  def quiet_note(record)
    "<p>#{h(record.note)}</p>".html_safe
  end
  def mark(text)
    raw("<em>" + text + "</em>") # weak: injection/page-output
  end
end
