import { defineConfigWithVueTs, vueTsConfigs } from '@vue/eslint-config-typescript'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'

export default defineConfigWithVueTs(
  { ignores: ['dist', 'src/api/schema.ts'] },
  vue.configs['flat/recommended'],
  vueTsConfigs.strict,
  // Text from files is text: nothing of it ever becomes HTML.
  { rules: { 'vue/no-v-html': 'error' } },
  // TypeScript says which props may be missing.
  { rules: { 'vue/require-default-prop': 'off' } },
  // A test that reads past the end fails, as it should.
  { files: ['**/*.test.ts'], rules: { '@typescript-eslint/no-non-null-assertion': 'off' } },
  prettier,
)
