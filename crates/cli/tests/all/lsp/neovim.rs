//! A real editor: neovim without a window, with the settings that docs/editors.md gives.

use std::process::{Command, Stdio};
use std::time::Duration;

use serde_json::Value;

use crate::fixture::Terminal;

/// The code of a language in docs/editors.md.
fn settings(language: &str) -> String {
    let page = include_str!("../../../../../docs/editors.md");
    let fence = format!("```{language}\n");
    page.split_once(&fence).unwrap().1.split_once("```").unwrap().0.to_string()
}

/// Runs a piece of Lua in neovim, in the terminal's folder, and gives what it says. Nothing where there is no
/// neovim.
fn neovim(terminal: &Terminal, script: &str) -> Option<Value> {
    if Command::new("nvim").arg("--version").output().is_err() {
        println!("neovim is not installed, so this is skipped");
        return None;
    }
    let program = assert_cmd::cargo::cargo_bin!("truehook");
    let folder = program.parent().unwrap().to_str().unwrap();
    let path = format!("{folder}:{}", std::env::var("PATH").unwrap_or_default());
    terminal.write("nvim/settings.lua", settings("lua"));
    let helpers = r#"
local told = {}
local function wait(what, so) if not vim.wait(20000, so, 10) then error("waited in vain: " .. what) end end
local function find(text) vim.fn.cursor(1, 1); if vim.fn.search(text, "cW") == 0 then error("no " .. text) end end
local function open(path)
  vim.cmd("edit " .. path)
  wait("a client", function() return #vim.lsp.buf_get_clients(0) > 0 end)
end
local function labels(added)
  local last = vim.api.nvim_buf_line_count(0)
  vim.api.nvim_buf_set_lines(0, last, last, false, { added })
  vim.api.nvim_win_set_cursor(0, { last + 1, #added })
  vim.fn.cursor(last + 1, #added + 1)
  local params = vim.lsp.util.make_position_params()
  params.position.character = #added
  local answers = vim.lsp.buf_request_sync(0, "textDocument/completion", params, 20000)
  local found = {}
  for _, answer in pairs(answers) do
    for _, item in ipairs(vim.lsp.util.text_document_completion_list_to_complete_items(answer.result, "")) do
      table.insert(found, item.abbr or item.word)
    end
  end
  vim.api.nvim_buf_set_lines(0, last, last + 1, false, {})
  return found
end
local ok, why = pcall(function()
"#;
    let end = r#"
end)
if not ok then told.error = tostring(why) end
vim.fn.writefile({ vim.fn.json_encode(told) }, "nvim/told.json")
vim.cmd("qall!")
"#;
    terminal.write("nvim/script.lua", format!("{helpers}{script}{end}"));
    let mut child = Command::new("nvim")
        .args(["--headless", "-u", "nvim/settings.lua", "-i", "NONE", "-n", "-c", "luafile nvim/script.lua"])
        .current_dir(terminal.path(""))
        .env("PATH", path)
        .env("XDG_CACHE_HOME", terminal.path("caches"))
        .env("XDG_STATE_HOME", terminal.path("state"))
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut left = 600;
    while child.try_wait().unwrap().is_none() {
        left -= 1;
        if left == 0 {
            child.kill().unwrap();
            panic!("neovim does not end");
        }
        std::thread::sleep(Duration::from_millis(100));
    }
    let told: Value = serde_json::from_slice(&terminal.bytes("nvim/told.json")).unwrap();
    assert_eq!(told["error"], Value::Null, "{told}");
    Some(told)
}

#[test]
fn findings_completion_and_hovers_arrive() {
    let terminal = Terminal::demo();
    std::fs::create_dir(terminal.path(".git")).unwrap();
    let script = r#"
open("saltmarsh-broken/truehook.toml")
wait("diagnostics", function() return #vim.diagnostic.get(0) > 2 end)
told.codes = vim.tbl_map(function(found) return found.code end, vim.diagnostic.get(0))
open("saltmarsh/markup/front.html")
told.placed = labels('{{ place("')
told.condition = labels("{% if page.")
open("saltmarsh/truehook.toml")
vim.api.nvim_buf_set_lines(0, -1, -1, false, { "[[attach]]" })
told.to = labels('to = "')
vim.cmd("edit!")
vim.api.nvim_buf_set_lines(0, -1, -1, false, { "[[attach]]", 'to = "hook:under-masthead"' })
told.call = labels('call = "')
told.when = labels('when = "page.type == ' .. "'")
vim.cmd("edit!")
find("hook:under-masthead")
vim.lsp.buf.hover()
local function floating()
  for _, window in ipairs(vim.api.nvim_list_wins()) do
    if vim.api.nvim_win_get_config(window).relative ~= "" then return window end
  end
end
wait("a hover", floating)
told.hover = table.concat(vim.api.nvim_buf_get_lines(vim.api.nvim_win_get_buf(floating()), 0, -1, false), "\n")
"#;
    let Some(told) = neovim(&terminal, script) else { return };
    let texts = |key: &str| {
        let all = told[key].as_array().unwrap_or_else(|| panic!("{key}: {told}"));
        all.iter().map(|text| text.as_str().unwrap().to_string()).collect::<Vec<_>>()
    };
    for code in ["unknown-feature", "detach-target", "condition-name", "undeclared-point"] {
        assert!(texts("codes").iter().any(|known| known == code), "{code}: {:?}", texts("codes"));
    }
    assert!(texts("placed")[0].starts_with("partial:"), "{:?}", texts("placed"));
    assert!(texts("condition").contains(&"type".into()), "{:?}", texts("condition"));
    assert!(texts("to")[0].starts_with("hook:") || texts("to")[0].starts_with("filter:"), "{:?}", texts("to"));
    assert!(texts("call")[0].contains(".js#"), "{:?}", texts("call"));
    assert_eq!(texts("when"), ["entry", "front", "list", "missing", "page", "search"]);
    let hover = told["hover"].as_str().unwrap();
    assert!(hover.contains("Right below the masthead") && hover.contains("masthead.js#winterNotice"), "{hover}");
}

#[test]
fn definitions_new_names_and_mends_work() {
    let terminal = Terminal::demo();
    std::fs::create_dir(terminal.path(".git")).unwrap();
    let script = r#"
open("foreshore/markup/layout.html")
find("hook:under-masthead")
vim.lsp.buf.definition()
wait("the manifest", function() return vim.api.nvim_buf_get_name(0):find("foreshore/truehook.toml", 1, true) end)
told.point = vim.api.nvim_get_current_line()
open("saltmarsh/truehook.toml")
find("masthead.js#winterNotice")
vim.fn.search("winterNotice", "cW")
vim.lsp.buf.definition()
wait("the module", function() return vim.api.nvim_buf_get_name(0):find("code/masthead.js", 1, true) end)
told.callback = vim.api.nvim_get_current_line()

open("saltmarsh/truehook.toml")
find("region.tide-board")
vim.fn.search("tide-board", "cW")
vim.lsp.buf.rename("region:ebb-board")
wait("the new name", function() return vim.fn.search("region.ebb-board", "nw") > 0 end)
vim.cmd("wall")

vim.ui.select = function(items, options, choose)
  for _, item in ipairs(items) do
    local action = item[2]
    if action.title == "write `heading`" then return choose(item) end
  end
  error("no such mend")
end
open("saltmarsh-broken/markup/pieces/fold.html")
wait("diagnostics", function() return #vim.diagnostic.get(0) > 0 end)
find("haeding")
vim.lsp.buf.code_action()
wait("the mend", function() return vim.fn.search("haeding", "nw") == 0 end)
wait("no diagnostics", function() return #vim.diagnostic.get(0) == 0 end)
vim.cmd("wall")
"#;
    let Some(told) = neovim(&terminal, script) else { return };
    assert_eq!(told["point"], "[hook.under-masthead]");
    assert!(told["callback"].as_str().unwrap().contains("function winterNotice"), "{told}");
    terminal.types("check").ends(0).says("nothing wrong");
    for path in ["saltmarsh/truehook.toml", "saltmarsh/preview/site.toml"] {
        let text = terminal.read(path);
        assert!(!text.contains("tide-board") && text.contains("ebb-board"), "{path}");
    }
    assert!(!terminal.read("saltmarsh-broken/markup/pieces/fold.html").contains("haeding"));
}

#[test]
fn a_component_is_renamed_with_its_template() {
    let terminal = Terminal::demo();
    std::fs::create_dir(terminal.path(".git")).unwrap();
    let script = r#"
open("saltmarsh/truehook.toml")
find("partial.opening-hours")
vim.fn.search("opening-hours", "cW")
local before = vim.api.nvim_buf_get_lines(0, 0, -1, false)
vim.lsp.buf.rename("open-times")
wait("the new name", function()
  return not vim.deep_equal(before, vim.api.nvim_buf_get_lines(0, 0, -1, false))
end)
vim.wait(500)
vim.cmd("wall!")
told.renamed = table.concat(vim.api.nvim_buf_get_lines(0, 0, -1, false), "\n")
open("saltmarsh/truehook.toml")
find("partial.imprint")
vim.fn.search("imprint", "cW")
vim.lsp.buf.rename("colophon")
wait("the file", function() return vim.fn.filereadable("saltmarsh/markup/partials/colophon.html") == 1 or vim.fn.bufexists("saltmarsh/markup/partials/colophon.html") == 1 end)
vim.cmd("wall!")
"#;
    let Some(told) = neovim(&terminal, script) else { return };
    assert!(told["renamed"].as_str().unwrap().contains("[partial.open-times]"), "{told}");
    assert!(terminal.read("saltmarsh/truehook.toml").contains("[partial.colophon]"));
    assert!(terminal.path("saltmarsh/markup/partials/colophon.html").is_file());
    terminal.types("check").ends(0);
}
